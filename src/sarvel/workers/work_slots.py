"""Turns: units of work that run at one time, in all processes of a run together, are as many as it has workers.

A master is the work of one process, and its cuts and rungs that of several threads in it: encoders and array operations let
other threads run. Each takes a turn before it begins. While many masters are in work each process has about one; the last
master has them all.
"""

from __future__ import annotations

import contextlib
import sys
from collections.abc import Iterator
from contextlib import AbstractContextManager

from sarvel.workers.allocator import share_one_arena

_SWITCH = 0.0005  # s that a thread may keep others from going on; 5 ms are usual, longer than many an array operation

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
        share_one_arena()
        sys.setswitchinterval(_SWITCH)


def slots_in_all() -> int:
    """The units of work that may run at one time: so many threads are of use."""
    return _most


@contextlib.contextmanager
def work_slot() -> Iterator[None]:
    """Waits for a turn, and has it until the block ends."""
    with _turns or contextlib.nullcontext():
        yield
