"""The same work on many things, shared out among processes."""

from __future__ import annotations

import contextlib
import os
import sys
import threading
from collections.abc import Callable, Generator, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, TypeVar

from sarvel.workers.work_slots import share_slots

if TYPE_CHECKING:  # slow to load, and often not needed
    from concurrent.futures import Executor, ProcessPoolExecutor

_QUIET = "ignore::UserWarning:multiprocessing.resource_tracker"  # as `python -W` takes it; processes inherit it
_Work = TypeVar("_Work")
_Done = TypeVar("_Done")


def each_done(
    do: Callable[[_Work], _Done],
    works: Sequence[_Work],
    workers: int,
    died: Callable[[_Work], _Done],
) -> Generator[_Done, None, None]:
    """Does work, and yields results in the order in which they are ready.

    Args:
        do: the work on one thing; with more than one worker a function of a module, and all that it takes and gives can be
            sent to another process.
        workers: processes at most, and units of work at one time in all of them, >= 1; with one, or for one thing, no process is
            started.
        died: the result for a unit whose worker died on it.
    """
    works_by_number = dict(enumerate(works))
    if min(workers, len(works)) <= 1:
        share_slots(threading.BoundedSemaphore(workers), workers)
        yield from map(do, works)
    else:
        yield from _by_processes(do, works_by_number, workers, died)


def _by_processes(
    do: Callable[[_Work], _Done], left: dict[int, _Work], workers: int, died: Callable[[_Work], _Done]
) -> Iterator[_Done]:
    from concurrent.futures.process import BrokenProcessPool

    with _processes(min(workers, len(left)), workers) as pool, contextlib.suppress(BrokenProcessPool):
        for number, result in _on(pool, do, left):
            del left[number]
            yield result
    for work in left.values():  # a worker died, and took the pool with it: each alone, to find out on which thing
        with _processes(1, workers) as pool:
            try:
                yield from (result for _, result in _on(pool, do, {0: work}))
            except BrokenProcessPool:
                yield died(work)


def _on(pool: Executor, do: Callable[[_Work], _Done], works: Mapping[int, _Work]) -> Iterator[tuple[int, _Done]]:
    from concurrent.futures import as_completed

    from sarvel.workers.life import interrupts_held

    with interrupts_held():  # which processes that start inherit: an interrupt is the parent's alone
        tasks = {pool.submit(do, work): number for number, work in works.items()}
    for task in as_completed(tasks):
        yield tasks[task], task.result()


@contextlib.contextmanager
def _processes(count: int, turns: int) -> Iterator[Executor]:
    """Local processes, and their work slots; all end with the block."""
    from concurrent.futures import ProcessPoolExecutor
    from multiprocessing import get_context

    from sarvel.workers.life import live_with

    # The tracker of semaphores removes those of a parent that was killed, and states so: which is no news for a user.
    if _QUIET not in sys.warnoptions:
        sys.warnoptions.append(_QUIET)
    context = get_context("spawn")
    lifeline, held = context.Pipe(duplex=False)
    shared = (context.BoundedSemaphore(turns), turns)
    begun = (lifeline, os.getpid(), *shared)
    pool = ProcessPoolExecutor(count, mp_context=context, initializer=live_with, initargs=begun)
    try:
        yield pool
    except BaseException:  # Ctrl-C among them: workers in the middle of an encode would keep the program waiting
        _stop(pool)
        raise
    else:
        pool.shutdown()
    finally:
        held.close()
        lifeline.close()


def _stop(pool: ProcessPoolExecutor) -> None:
    processes = list((pool._processes or {}).values())  # noqa: SLF001 - the pool has no public way to end its workers
    pool.shutdown(wait=False, cancel_futures=True)
    for process in processes:
        process.terminate()
    for process in processes:
        process.join()
