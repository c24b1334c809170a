"""Making what is missing, master by master, on several workers."""

from __future__ import annotations

import contextlib
import os
import signal
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor, as_completed
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, field
from multiprocessing import get_context
from pathlib import Path

from sarvel.core.edition import Edition
from sarvel.core.settle import LeftOut
from sarvel.press.files import PART
from sarvel.press.findings import numbers_found, placeholders_found
from sarvel.press.ledger import Ledger
from sarvel.press.work import Made, MadeFile, MasterWork, plan_work


@dataclass
class Rendered:
    """What a run of the press came to.

    Attributes:
        made: files written by this run.
        kept: how many stood there already.
        faults: masters that could not be finished, by key, each with its message.
    """

    made: list[MadeFile] = field(default_factory=list)
    kept: int = 0
    faults: dict[str, str] = field(default_factory=dict)


def available_workers() -> int:
    """The cores that this process may use."""
    if hasattr(os, "sched_getaffinity"):
        return len(os.sched_getaffinity(0))
    return os.cpu_count() or 1


def work_to_do(edition: Edition, masters_folder: Path, output: Path, ledger: Ledger) -> tuple[list[MasterWork], int]:
    """What is missing, longest work first, and how many files stand there already.

    A file's name tells all that it was made from and files are written whole, so one that stands there is right.

    Args:
        edition: what is to be there: settled, as far as weights are known.
        masters_folder: where masters are.
        output: where renditions go.
        ledger: what is known already.
    """
    there = set(standing(output))
    wanted = {rendition.name for picture in edition.pictures.values() for rendition in picture.renditions()}
    known, shown = numbers_found(ledger, edition), set(placeholders_found(ledger, edition))
    return plan_work(edition, masters_folder, output, wanted - there, known, shown), len(wanted & there)


def placeholders_to_do(edition: Edition, masters_folder: Path, output: Path, ledger: Ledger) -> list[MasterWork]:
    """The work on placeholders that are missing, and on nothing else."""
    return plan_work(edition, masters_folder, output, set(), {}, set(placeholders_found(ledger, edition)))


def standing(output: Path) -> dict[str, int]:
    """The files of the output folder, with their bytes."""
    return {entry.name: entry.stat().st_size for entry in os.scandir(output)} if output.is_dir() else {}


def remove(left_out: Iterable[LeftOut], output: Path) -> None:
    """Takes the files of formats that do not pay out of the output folder; one that cannot be removed stays."""
    for rendition in (rendition for one in left_out for rendition in one.renditions):
        with contextlib.suppress(OSError):
            (output / rendition.name).unlink(missing_ok=True)


def render(works: list[MasterWork], kept: int, workers: int, told: Callable[[Made], None] = lambda _: None) -> Rendered:
    """Does the work.

    Args:
        works: one for each master.
        kept: how many files need no work.
        workers: processes at most, >= 1; with one, or for one master, no process is started.
        told: called as each master is done.

    Raises:
        OutputError: the output folder cannot be written.
    """
    # A product of a few rows is too small to share out, and the cores are busy with other masters.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    result = Rendered(kept=kept)
    if not works:
        return result
    for made in _done(works, min(workers, len(works))):
        result.made += made.files
        if made.fault:
            result.faults[made.key] = made.fault
        told(made)
    return result


def _done(works: list[MasterWork], workers: int) -> Iterator[Made]:
    from sarvel.press.make import do_work  # noqa: PLC0415 - slow to load, and often there is nothing to do

    if workers <= 1:
        yield from map(do_work, works)
        return
    pool = ProcessPoolExecutor(workers, mp_context=get_context("spawn"), initializer=_leave_interrupts_to_the_parent)
    try:
        yield from _collected({pool.submit(do_work, work): work for work in works})
    except BaseException:  # Ctrl-C among them: workers in the middle of an encode would keep the program waiting
        _stop(pool)
        for part in works[0].output.glob(f"{PART}*"):
            part.unlink(missing_ok=True)
        raise
    pool.shutdown()


def _collected(tasks: dict[Future[Made], MasterWork]) -> Iterator[Made]:
    for task in as_completed(tasks):
        try:
            yield task.result()
        except BrokenProcessPool:
            key = tasks[task].key
            yield Made(
                key,
                (),
                {},
                f"{key}: the worker that decoded or encoded it, or one beside it, died; run again with --workers 1",
            )


def _stop(pool: ProcessPoolExecutor) -> None:
    processes = list((pool._processes or {}).values())  # noqa: SLF001 - the pool has no public way to end its workers
    pool.shutdown(wait=False, cancel_futures=True)
    for process in processes:
        process.terminate()
    for process in processes:
        process.join()


def _leave_interrupts_to_the_parent() -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)
