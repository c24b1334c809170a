"""The lock of a folder: runs that write into one folder take turns."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from filelock import FileLock

NAME = ".sarvel.lock"
"""The name of the lock's file. It is there while a run is at work, and empty."""

_TICK = 0.05  # seconds between two looks at whether it is free


@contextlib.contextmanager
def alone_in(folder: Path, waiting: Callable[[], None]) -> Iterator[None]:
    """Keeps other runs out of a folder for the length of the block; the system lets go if this one is killed.

    Args:
        folder: created if it is missing. If it cannot be locked (read-only, or on some network drives), the lock has no effect.
        waiting: called once if another run has to be waited for.
    """
    from filelock import FileLock, Timeout  # slow to load

    lock = FileLock(folder / NAME, poll_interval=_TICK, fallback_to_soft=False)
    with contextlib.ExitStack() as stack:
        with contextlib.suppress(OSError):
            folder.mkdir(parents=True, exist_ok=True)
            try:
                lock.acquire(timeout=0)
            except Timeout:
                waiting()
                lock.acquire()
            stack.callback(_release, lock, folder / NAME)
        yield


def _release(lock: FileLock, file: Path) -> None:
    """Removes the lock's file while it is locked: a waiting run sees that it is gone, and makes another."""
    with contextlib.suppress(OSError):
        file.unlink(missing_ok=True)  # not on Windows, where an open file stays
    lock.release()
