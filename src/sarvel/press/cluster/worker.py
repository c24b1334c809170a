"""The part of a task that runs on a worker."""

from __future__ import annotations

import hashlib
import queue
import tempfile
from dataclasses import replace
from pathlib import Path

from sarvel.press.cluster.hand import DiedError, Hand
from sarvel.press.cluster.identity import identity
from sarvel.press.cluster.task import Reply, Task
from sarvel.press.work import Made, MasterWork

_idle: queue.LifoQueue[Hand] = queue.LifoQueue()
"""Processes of this worker that have nothing to do; as many as it has threads."""


def do_task(task: Task) -> Reply:
    """Does the work of a task, in a process beside this one.

    Raises:
        OutputError: the folder of renditions cannot be written.
    """
    if identity() != task.identity:
        return Reply(refuses=_address())
    with tempfile.TemporaryDirectory(prefix="sarvel-") as folder:
        work = _as_here(task, Path(folder))
        if work is None:
            return Reply(lacks=True)
        try:
            made = _by_hand(work)
        except DiedError:
            return Reply(died=True)
        is_shared = work.output == task.work.output
        contents = {} if is_shared else {one.name: (work.output / one.name).read_bytes() for one in made.files}
        return Reply(made, contents)


def _as_here(task: Task, folder: Path) -> MasterWork | None:
    """The work with the paths that it has here; None if the master is to travel first."""
    work = task.work
    if not (work.output / task.mark).is_file():
        work = replace(work, output=folder / "made")
    if task.master is not None:
        file = folder / f"master{work.file.suffix}"
        file.write_bytes(task.master)
        return replace(work, file=file)
    return work if _is_here(work) else None


def _is_here(work: MasterWork) -> bool:
    """Tells whether the master lies here where it lies for the coordinator: the same bytes, not only the same name."""
    try:
        with work.file.open("rb") as stream:
            return hashlib.file_digest(stream, "blake2b").hexdigest() == work.digest
    except OSError:
        return False


def _by_hand(work: MasterWork) -> Made:
    try:
        hand = _idle.get_nowait()
    except queue.Empty:
        hand = Hand()
    try:
        made = hand.do(work)
    except DiedError:
        hand.close()
        raise
    except BaseException:
        _idle.put(hand)
        raise
    _idle.put(hand)
    return made


def _address() -> str:
    from distributed import get_worker

    return str(get_worker().address)
