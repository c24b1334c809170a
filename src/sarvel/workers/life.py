"""The life of a worker process: it ends with the process that started it, however that one ends."""

from __future__ import annotations

import contextlib
import ctypes
import os
import signal
import sys
import threading
from collections.abc import Iterator
from contextlib import AbstractContextManager
from multiprocessing.connection import Connection
from types import FrameType

from sarvel.workers.work_slots import share_slots

_PR_SET_PDEATHSIG = 1  # Linux, prctl(2): the signal that is sent when the parent dies

_parent: int | None = None
"""The process that started this one; None in a process that does the work itself."""


def live_with(
    lifeline: Connection, parent: int, turns: AbstractContextManager[object] | None = None, most: int = 1
) -> None:
    """Initialises a worker: it leaves interrupts to its parent, and ends with it.

    Args:
        lifeline: a pipe whose other end the parent alone holds.
        turns: a semaphore that units of work take turns by; None for one at a time.
    """
    global _parent  # noqa: PLW0603 - a fact of the whole process
    _parent = parent
    if turns is not None:
        share_slots(turns, most)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    threading.Thread(target=_end_with, args=(lifeline,), daemon=True).start()
    if sys.platform == "linux":  # at once, even in the middle of an encode that lets no thread run
        with contextlib.suppress(OSError, AttributeError):
            ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGKILL)
    if not parent_lives():
        os._exit(1)


@contextlib.contextmanager
def interrupts_held() -> Iterator[None]:
    """Holds interrupts back until the block ends; processes that are started in it never get any."""
    with _interrupt_told_later(), _interrupt_blocked():
        yield


@contextlib.contextmanager
def _interrupt_blocked() -> Iterator[None]:
    """Blocks the signal in this thread, and so in the processes that it starts."""
    if not hasattr(signal, "pthread_sigmask"):  # pragma: no cover - on Windows
        yield
        return
    before = signal.pthread_sigmask(signal.SIG_BLOCK, {signal.SIGINT})
    try:
        yield
    finally:
        signal.pthread_sigmask(signal.SIG_SETMASK, before)


@contextlib.contextmanager
def _interrupt_told_later() -> Iterator[None]:
    """Puts off what the main thread does on an interrupt; any thread that has not blocked the signal may get it for that one."""
    before = signal.getsignal(signal.SIGINT)
    if before is None or threading.current_thread() is not threading.main_thread():
        yield
        return
    seen: list[tuple[int, FrameType | None]] = []
    signal.signal(signal.SIGINT, lambda number, frame: seen.append((number, frame)))
    try:
        yield
    finally:
        signal.signal(signal.SIGINT, before)
    if seen and callable(before):
        before(*seen[0])


def parent_lives() -> bool:
    """Tells whether the process that holds the folder's lock for this one is still there."""
    return _parent is None or os.getppid() == _parent


def _end_with(lifeline: Connection) -> None:
    with contextlib.suppress(OSError, EOFError):
        lifeline.recv_bytes()  # nothing is ever sent: it waits until the other end is closed
    os._exit(1)
