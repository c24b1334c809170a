"""The memory allocator of this process, set for threads that take and give back large pieces.

glibc gives each thread an arena of its own, whose pieces the system maps and unmaps one by one; threads then wait for each
other in the kernel, which costs a third of what a second thread is good for (measured). Of one arena memory is taken again
without asking the system.
"""

from __future__ import annotations

import contextlib
import ctypes
import sys

# mallopt(3): how many arenas, which pieces are mapped one by one, and how much free memory is kept. Larger thresholds than 32 MB
# glibc does not take.
_M_ARENA_MAX, _M_MMAP_THRESHOLD, _M_TRIM_THRESHOLD = -8, -3, -1
_MAPPED, _KEPT = 32 * 2**20, 256 * 2**20


def share_one_arena() -> None:
    """Has all threads of this process share one arena; to be called before there are any. Without glibc it does nothing."""
    if sys.platform == "linux":
        with contextlib.suppress(OSError, AttributeError):
            set_to = ctypes.CDLL(None).mallopt
            set_to(_M_ARENA_MAX, 1)
            set_to(_M_MMAP_THRESHOLD, _MAPPED)
            set_to(_M_TRIM_THRESHOLD, _KEPT)
