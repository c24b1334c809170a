"""Making what is missing, master by master, on several workers.

What there is to do is data (`MasterWork`), doing it is one function of that data (`do_work`), and where it runs is a plain
`concurrent.futures.Executor`: another one can be put in the place of the local processes.
"""

from __future__ import annotations

import contextlib
import os
import re
import signal
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.core.edition import Edition
from sarvel.core.settle import LeftOut
from sarvel.errors import OutputError
from sarvel.press.files import PART, write_whole
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
    """

    works: list[MasterWork]
    copies: dict[str, str]
    kept: int

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
    """

    made: list[MadeFile] = field(default_factory=list)
    kept: int = 0
    faults: dict[str, str] = field(default_factory=dict)
    pruned: list[str] = field(default_factory=list)


def work_to_do(edition: Edition, masters_folder: Path, output: Path, ledger: Ledger, *, force: bool = False) -> Todo:
    """What is missing.

    A file's name tells all that it was made from and files are written whole, so one that stands there is right.

    Args:
        edition: what is to be there: settled, as far as weights are known.
        masters_folder: where masters are.
        output: where renditions go.
        ledger: what is known already.
        force: whether to make what stands there, too.
    """
    there = set[str]() if force else standing(output)
    wanted = [one.name for picture in edition.pictures.values() for one in picture.renditions()]
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
    return Todo(works, copies, len(there.intersection(wanted)))


def placeholders_to_do(edition: Edition, masters_folder: Path, output: Path, ledger: Ledger) -> Todo:
    """The work on placeholders that are missing, and on nothing else."""
    shown = set(placeholders_found(ledger, edition))
    return Todo(plan_work(edition, masters_folder, output, set(), {}, shown), {}, 0)


def standing(output: Path) -> set[str]:
    """The names of the files in the output folder."""
    return set(os.listdir(output)) if output.is_dir() else set()  # noqa: PTH208 - thousands, and names are all that counts


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
                weights[name] = (output / name).stat().st_size
    return weights


def sweep(output: Path) -> None:
    """Removes what runs that were killed had begun to write; nobody else may be writing in the folder."""
    for part in output.glob(f"{PART}*"):
        with contextlib.suppress(OSError):
            part.unlink()


def remove(left_out: Iterable[LeftOut], output: Path) -> None:
    """Takes the files of formats that do not pay out of the output folder; one that cannot be removed stays."""
    for rendition in (rendition for one in left_out for rendition in one.renditions):
        with contextlib.suppress(OSError):
            (output / rendition.name).unlink(missing_ok=True)


def prune(edition: Edition, output: Path, ledger: Ledger) -> list[str]:
    """Removes renditions that are not of the Edition any more; only files that the ledger knows as its own.

    Returns:
        Their names.

    Raises:
        OutputError: one cannot be removed.
    """
    wanted = {one.name for picture in edition.pictures.values() for one in picture.renditions()}
    ours = ledger.weights()
    gone = sorted(name for name in standing(output) if name in ours and name not in wanted)
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
    result = Rendered(kept=todo.kept)
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

    for task in as_completed([pool.submit(do_work, work) for work in works]):
        yield task.result()


@contextlib.contextmanager
def _processes(workers: int, output: Path) -> Iterator[Executor]:
    """Local processes; whatever ends the block ends them, and what they were writing."""
    from concurrent.futures import ProcessPoolExecutor  # noqa: PLC0415 - as above
    from multiprocessing import get_context  # noqa: PLC0415 - as above

    pool = ProcessPoolExecutor(workers, mp_context=get_context("spawn"), initializer=_leave_interrupts_to_the_parent)
    try:
        yield pool
    except BaseException:  # Ctrl-C among them: workers in the middle of an encode would keep the program waiting
        _stop(pool)
        sweep(output)
        raise
    pool.shutdown()


def _copied(copies: dict[str, str], output: Path) -> Iterator[MadeFile]:
    """Copies what is the same as another file; where that could not be made, there is nothing to copy."""
    import hashlib  # noqa: PLC0415 - few runs copy

    for name, first in copies.items():
        with contextlib.suppress(FileNotFoundError):
            content = (output / first).read_bytes()
            write_whole(output / name, content)
            yield MadeFile(name, len(content), hashlib.blake2b(content).hexdigest())


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


def _leave_interrupts_to_the_parent() -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
