"""The part of a task that runs on a worker."""

from __future__ import annotations

import hashlib
import queue
import tempfile
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path

from sarvel.encode.work import Made, MasterWork
from sarvel.errors import OutputError, StorageError
from sarvel.files.storage.stored_master import StoredMaster
from sarvel.files.storage.stored_output import StoredOutput
from sarvel.workers.cluster.identity import identity
from sarvel.workers.cluster.task import Reply, Task
from sarvel.workers.render_process import DiedError, RenderProcess

_AT_ONCE = 8  # files on their way to object storage

_idle: queue.LifoQueue[RenderProcess] = queue.LifoQueue()
"""Processes of this worker that have nothing to do; as many as it has threads."""


def do_task(task: Task) -> Reply:
    """Does the work of a task, in a process next to this one.

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
            made = _in_a_process(work)
        except DiedError:
            return Reply(died=True)
        if work.output == task.work.output:  # shared
            return Reply(made)
        contents = {one.name: (work.output / one.name).read_bytes() for one in made.files}
        if task.place and _are_sent(contents, task.place):
            return Reply(made, sent=True)
        return Reply(made, contents)


def _are_sent(contents: Mapping[str, bytes], place: StoredOutput) -> bool:
    """Sends files from here, if the storage can be reached from here."""
    with ThreadPoolExecutor(_AT_ONCE) as pool:
        try:
            for _ in pool.map(lambda item: place.send(*item), contents.items()):
                pass
        except StorageError:
            pool.shutdown(cancel_futures=True)
            return False
    return True


def _as_here(task: Task, folder: Path) -> MasterWork | None:
    """The work with the paths that it has here; None if the master is to travel first."""
    work = task.work
    if not (work.output / task.mark).is_file():
        work = replace(work, output=folder / "made")
        if isinstance(work.file, StoredMaster):  # its cache is on another machine
            work = replace(work, file=replace(work.file, cache=Path(tempfile.gettempdir(), "sarvel.masters")))
    if task.master is not None:
        file = folder / "master"
        file.write_bytes(task.master)
        return replace(work, file=file)
    return work if _is_here(work) else None


def _is_here(work: MasterWork) -> bool:
    """Tells whether the master can be read here as the coordinator reads it: the same bytes, not only the same name."""
    try:
        file = work.file.fetched() if isinstance(work.file, StoredMaster) else work.file
        with file.open("rb") as stream:
            return hashlib.file_digest(stream, "blake2b").hexdigest() == work.digest
    except (OSError, OutputError):
        return False


def _in_a_process(work: MasterWork) -> Made:
    try:
        process = _idle.get_nowait()
    except queue.Empty:
        process = RenderProcess()
    try:
        made = process.do(work)
    except DiedError:
        process.close()
        raise
    except BaseException:
        _idle.put(process)
        raise
    _idle.put(process)
    return made


def _address() -> str:
    from distributed import get_worker

    return str(get_worker().address)
