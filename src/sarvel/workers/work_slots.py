"""Turns: units of work that run at one time, in all processes of a run together, are as many as it has workers.

A master is the work of one process, and its crops and rungs that of several threads in it: encoders and array operations let
other threads run. Each takes a turn before it begins. While many masters are in work each process has about one; the last
master has them all.
"""

from __future__ import annotations

import contextlib
import ctypes
import sys
from collections.abc import Iterator
from contextlib import AbstractContextManager

_SWITCH = 0.0005  # s that a thread may keep others from going on; 5 ms are usual, longer than many an array operation

# mallopt(3): how many arenas, which pieces are mapped one by one, and how much free memory is kept. Larger thresholds than 32 MB
# glibc does not take.
_M_ARENA_MAX, _M_MMAP_THRESHOLD, _M_TRIM_THRESHOLD = -8, -3, -1
_MAPPED, _KEPT = 32 * 2**20, 256 * 2**20

_turns: AbstractContextManager[object] | None = None
_most = 1


def share_slots(turns: AbstractContextManager[object], most: int) -> None:
    """Has this process take turns with others.

    Args:
        turns: a semaphore that all processes of the run have; of threads alone, if there is only this one.
        most: how many turns it holds, >= 1.
    """
    global _turns, _most
    _turns, _most = turns, most
    if most > 1:
        _share_one_arena()
        sys.setswitchinterval(_SWITCH)


def slots_in_all() -> int:
    """The units of work that may run at one time: so many threads are of use."""
    return _most


@contextlib.contextmanager
def work_slot() -> Iterator[None]:
    """Waits for a turn, and has it until the block ends."""
    with _turns or contextlib.nullcontext():
        yield


def _share_one_arena() -> None:
    """Has all threads of this process share one arena of memory; to be called before there are any. Nothing without glibc.

    glibc gives each thread an arena of its own, whose pieces the system maps and unmaps one by one; threads then wait for each
    other in the kernel, which costs a third of what a second thread is good for (measured). Of one arena memory is taken again
    without asking the system.
    """
    if sys.platform == "linux":
        with contextlib.suppress(OSError, AttributeError):
            set_to = ctypes.CDLL(None).mallopt
            set_to(_M_ARENA_MAX, 1)
            set_to(_M_MMAP_THRESHOLD, _MAPPED)
            set_to(_M_TRIM_THRESHOLD, _KEPT)
