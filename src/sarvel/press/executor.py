"""Rendering on several workers: the work on each master, wherever a worker runs.

What there is to do is data (`MasterWork`), doing it is one function of that data (`do_work`), and where it runs is a plain
`concurrent.futures.Executor`: another one can be put in the place of the local processes.
"""

from __future__ import annotations

import contextlib
import os
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.core.edition.rendition import Rendition
from sarvel.press.atomic import content_digest, sweep, write_whole
from sarvel.press.ledger import MadeFile
from sarvel.press.todo import Todo
from sarvel.press.work import Made, MasterWork

if TYPE_CHECKING:  # slow to load, and often there is nothing to do
    from concurrent.futures import Executor, ProcessPoolExecutor


@dataclass
class Rendered:
    """The result of a run of the press.

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
    from concurrent.futures.process import BrokenProcessPool

    from sarvel.press.make import do_work

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
    from concurrent.futures import as_completed

    from sarvel.press.make import do_work
    from sarvel.press.worker_process import interrupts_held

    with interrupts_held():  # which processes that start inherit: an interrupt is the parent's alone
        tasks = [pool.submit(do_work, work) for work in works]
    for task in as_completed(tasks):
        yield task.result()


@contextlib.contextmanager
def _processes(workers: int, output: Path) -> Iterator[Executor]:
    """Local processes; whatever ends the block ends them, and what they were writing."""
    from concurrent.futures import ProcessPoolExecutor
    from multiprocessing import get_context

    from sarvel.press.worker_process import live_with

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


def _copied(copies: Mapping[Rendition, str], output: Path) -> Iterator[MadeFile]:
    """Copies what is the same as another file; where that could not be made, there is nothing to copy."""
    for one, first in copies.items():
        with contextlib.suppress(FileNotFoundError):
            content = (output / first).read_bytes()
            write_whole(output / one.name, content)
            yield MadeFile(one.name, len(content), content_digest(content), one.fingerprint)


def _stop(pool: ProcessPoolExecutor) -> None:
    processes = list((pool._processes or {}).values())  # noqa: SLF001 - the pool has no public way to end its workers
    pool.shutdown(wait=False, cancel_futures=True)
    for process in processes:
        process.terminate()
    for process in processes:
        process.join()
