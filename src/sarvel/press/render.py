"""Making what is missing, master by master, on several workers.

What there is to do is data (`MasterWork`), doing it is one function of that data (`do_work`), and where it runs is a plain
`concurrent.futures.Executor`: another one can be put in the place of the local processes.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
from collections.abc import Callable, Container, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.core.edition import Edition
from sarvel.errors import OutputError
from sarvel.press.files import sweep, write_whole
from sarvel.press.findings import numbers_found, placeholders_found
from sarvel.press.ledger import Ledger
from sarvel.press.work import Made, MadeFile, MasterWork, plan_work

if TYPE_CHECKING:  # slow to load, and often there is nothing to do
    from concurrent.futures import Executor, ProcessPoolExecutor


_DIGESTS = re.compile(r"(?<![0-9a-z])[0-9a-f]{10}(?![0-9a-z])")


@dataclass(frozen=True)
class Todo:
    """What a run of the press has to do.

    Attributes:
        works: one for each master that something is to be made of, longest first.
        copies: files that are the same as another under another name: a master was renamed, or two slots crop alike.
        kept: how many files stand there already.
        altered: names of files that stand there, and are not what was written: they are made again.
    """

    works: list[MasterWork]
    copies: dict[str, str]
    kept: int
    altered: Sequence[str] = ()

    @property
    def count(self) -> int:
        """How many files are to be written."""
        return sum(work.count for work in self.works) + len(self.copies)


@dataclass
class Rendered:
    """What a run of the press came to.

    Attributes:
        made: files written by this run.
        kept: how many stood there already.
        faults: masters that could not be finished, by key, each with its message.
        pruned: names of files that were removed, because the plan does not make them any more.
        altered: names of files that stood there and were not what was written; they were made again.
    """

    made: list[MadeFile] = field(default_factory=list)
    kept: int = 0
    faults: dict[str, str] = field(default_factory=dict)
    pruned: list[str] = field(default_factory=list)
    altered: Sequence[str] = ()


def work_to_do(
    edition: Edition,
    masters_folder: Path,
    output: Path,
    ledger: Ledger,
    *,
    force: bool = False,
    verify: bool = False,
) -> Todo:
    """What is missing.

    A file's name tells all that it was made from and files are written whole, so one that stands there is right, unless
    somebody else changed it.

    Args:
        edition: what is to be there: settled, as far as weights are known.
        masters_folder: where masters are.
        output: where renditions go.
        ledger: what is known already.
        force: whether to make what stands there, too.
        verify: whether to compare the contents of what stands there with what was written, not only its size.
    """
    sizes = {} if force else standing(output)
    wanted = [one.name for picture in edition.pictures.values() for one in picture.renditions()]
    altered = _altered({name: sizes[name] for name in wanted if name in sizes}, output, ledger, verify=verify)
    there = sizes.keys() - altered
    absent = [name for name in dict.fromkeys(wanted) if name not in there]
    alike = {_contents(name): name for name in sorted(there)} if absent else {}
    missing: set[str] = set()
    copies: dict[str, str] = {}
    for name in absent:
        first = alike.setdefault(_contents(name), name)
        if first == name:
            missing.add(name)
        else:
            copies[name] = first
    known, shown = numbers_found(ledger, edition), set(placeholders_found(ledger, edition))
    works = plan_work(edition, masters_folder, output, missing, known, shown)
    return Todo(works, copies, len(there.intersection(wanted)), sorted(altered))


def _altered(sizes: Mapping[str, int], output: Path, ledger: Ledger, *, verify: bool) -> set[str]:
    """Names of files that are not what was written, going by their sizes; with `verify` also by their contents."""
    known = ledger.contents()
    altered = {name for name, size in sizes.items() if size == 0 or (name in known and known[name][0] != size)}
    if verify:
        for name in sizes.keys() - altered:
            with contextlib.suppress(OSError):
                if name in known and digest_of((output / name).read_bytes()) == known[name][1]:
                    continue
            altered.add(name)
    return altered


def placeholders_to_do(edition: Edition, masters_folder: Path, output: Path, ledger: Ledger) -> Todo:
    """The work on placeholders that are missing, and on nothing else."""
    shown = set(placeholders_found(ledger, edition))
    return Todo(plan_work(edition, masters_folder, output, set(), {}, shown), {}, 0)


def standing(output: Path) -> dict[str, int]:
    """The files in the output folder: bytes by name.

    Raises:
        OutputError: it cannot be read.
    """
    try:
        with os.scandir(output) as entries:
            return {entry.name: entry.stat().st_size for entry in entries if entry.is_file()}
    except (FileNotFoundError, NotADirectoryError):
        return {}
    except OSError as error:
        raise OutputError(f"{output}: cannot be read ({error.strerror}); check its permissions") from error


def digest_of(content: bytes) -> str:
    """What the ledger knows the contents of a file by."""
    return hashlib.blake2b(content).hexdigest()


def weights_of(edition: Edition, output: Path, ledger: Ledger) -> dict[str, int]:
    """The bytes of renditions, as far as they were ever made: under this name or under another with the same contents."""
    known = ledger.weights()
    names = [one.name for picture in edition.pictures.values() for one in picture.renditions()]
    weights = {name: known[name] for name in names if name in known}
    strange = [name for name in names if name not in weights]
    if strange:
        alike, there = {_contents(name): size for name, size in known.items()}, standing(output)
        for name in strange:
            size = alike.get(_contents(name))
            if size is not None:
                weights[name] = size
            elif name in there:
                weights[name] = there[name]
    return weights


def remove(names: Iterable[str], output: Path) -> None:
    """Takes files, such as those of formats that do not pay, out of the output folder; one that cannot be removed stays."""
    for name in names:
        with contextlib.suppress(OSError):
            (output / name).unlink(missing_ok=True)


def prune(edition: Edition, output: Path, ledger: Ledger, named: Container[str]) -> list[str]:
    """Removes renditions that are not of the Edition any more; only files that the ledger knows as its own.

    Args:
        edition: what is to be there.
        output: where renditions are.
        ledger: what was made before.
        named: files that pages still name; they stay.

    Returns:
        Their names.

    Raises:
        OutputError: one cannot be removed.
    """
    wanted = {one.name for picture in edition.pictures.values() for one in picture.renditions()}
    ours = ledger.weights()
    gone = sorted(name for name in standing(output) if name in ours and name not in wanted and name not in named)
    for name in gone:
        try:
            (output / name).unlink(missing_ok=True)
        except OSError as error:
            raise OutputError(
                f"{output / name}: cannot be removed ({error.strerror}); check the folder's permissions"
            ) from error
    return gone


def render(
    todo: Todo, output: Path, workers: int, told: Callable[[Made], None] = lambda _: None, pool: Executor | None = None
) -> Rendered:
    """Does the work.

    Args:
        todo: the work.
        output: where renditions go.
        workers: processes at most, >= 1; with one, or for one master, no process is started.
        told: called as each master is done, and once for the copies.
        pool: where to run it instead.

    Raises:
        OutputError: the output folder cannot be written.
    """
    # A product of a few rows is too small to share out, and the cores are busy with other masters.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    result = Rendered(kept=todo.kept, altered=todo.altered)
    for made in _all_done(todo, output, workers, pool):
        result.made += made.files
        if made.fault:
            result.faults[made.key] = made.fault
        told(made)
    return result


def _all_done(todo: Todo, output: Path, workers: int, pool: Executor | None) -> Iterator[Made]:
    if todo.works:
        yield from _on(pool, todo.works) if pool else _done(todo.works, min(workers, len(todo.works)))
    if todo.copies:
        yield Made("copies", tuple(_copied(todo.copies, output)), {})


def _done(works: list[MasterWork], workers: int) -> Iterator[Made]:
    from concurrent.futures.process import BrokenProcessPool  # noqa: PLC0415 - as above

    from sarvel.press.make import do_work  # noqa: PLC0415 - as above

    if workers <= 1:
        yield from map(do_work, works)
        return
    left = {work.key: work for work in works}
    with _processes(workers, works[0].output) as pool, contextlib.suppress(BrokenProcessPool):
        for made in _on(pool, works):
            del left[made.key]
            yield made
    for work in left.values():  # a worker died, and took the pool with it: each alone, to find out on which master
        with _processes(1, work.output) as pool:
            try:
                yield from _on(pool, [work])
            except BrokenProcessPool:
                reason = "the worker that decoded or encoded it died; save or copy it anew, or leave it out"
                yield Made(work.key, (), {}, f"{work.key}: {reason}")


def _on(pool: Executor, works: list[MasterWork]) -> Iterator[Made]:
    from concurrent.futures import as_completed  # noqa: PLC0415 - as above

    from sarvel.press.make import do_work  # noqa: PLC0415 - as above
    from sarvel.press.worker import interrupts_held  # noqa: PLC0415 - as above

    with interrupts_held():  # which processes that start inherit: an interrupt is the parent's alone
        tasks = [pool.submit(do_work, work) for work in works]
    for task in as_completed(tasks):
        yield task.result()


@contextlib.contextmanager
def _processes(workers: int, output: Path) -> Iterator[Executor]:
    """Local processes; whatever ends the block ends them, and what they were writing."""
    from concurrent.futures import ProcessPoolExecutor  # noqa: PLC0415 - as above
    from multiprocessing import get_context  # noqa: PLC0415 - as above

    from sarvel.press.worker import live_with  # noqa: PLC0415 - as above

    context = get_context("spawn")
    lifeline, held = context.Pipe(duplex=False)
    pool = ProcessPoolExecutor(workers, mp_context=context, initializer=live_with, initargs=(lifeline, os.getpid()))
    try:
        yield pool
    except BaseException:  # Ctrl-C among them: workers in the middle of an encode would keep the program waiting
        _stop(pool)
        sweep(output)
        raise
    else:
        pool.shutdown()
    finally:
        held.close()
        lifeline.close()


def _copied(copies: dict[str, str], output: Path) -> Iterator[MadeFile]:
    """Copies what is the same as another file; where that could not be made, there is nothing to copy."""
    for name, first in copies.items():
        with contextlib.suppress(FileNotFoundError):
            content = (output / first).read_bytes()
            write_whole(output / name, content)
            yield MadeFile(name, len(content), digest_of(content))


def _contents(name: str) -> str:
    """The part of a file's name that tells its bytes: digest and ending."""
    digests = _DIGESTS.findall(name)
    return f"{digests[-1]}.{name.rsplit('.', 1)[-1]}" if digests else name


def _stop(pool: ProcessPoolExecutor) -> None:
    processes = list((pool._processes or {}).values())  # noqa: SLF001 - the pool has no public way to end its workers
    pool.shutdown(wait=False, cancel_futures=True)
    for process in processes:
        process.terminate()
    for process in processes:
        process.join()
