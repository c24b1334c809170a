"""Other programs that are writing a file, such as an editor that saves it slowly in place.

On Linux the kernel tells whether a file is open for writing: it then refuses a read lease (fcntl(2), "Leases"). Elsewhere,
and on network drives, a file is complete when it has not changed for a moment.
"""

from __future__ import annotations

import os
import signal
import time
from pathlib import Path

_PAUSE = 0.3  # s without a change after which a file is complete, where its writer opens it again for each piece
_TICK = 0.05  # s between two looks
_PATIENCE = 30.0  # s that a file may stay open for writing without a change


def is_held(file: Path) -> bool:
    """Tells whether another program has a file open for writing; False where the system cannot tell."""
    try:
        import fcntl
    except ImportError:  # on Windows a file that is open for writing cannot be replaced anyway
        return False
    if not hasattr(fcntl, "F_SETLEASE"):
        return False
    try:
        handle = os.open(file, os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK)
    except OSError:
        return False
    try:
        # A program that opens the file in the meantime sends a signal; the default one, SIGIO, would end this process.
        fcntl.fcntl(handle, fcntl.F_SETSIG, signal.SIGURG)
        fcntl.fcntl(handle, fcntl.F_SETLEASE, fcntl.F_RDLCK)
    except BlockingIOError:
        return True
    except OSError:  # another user's file, or a drive without leases
        return False
    finally:
        os.close(handle)
    return False


def wait_until_still(file: Path) -> bool:
    """Waits until no other program is writing a file.

    Returns:
        Whether that is so; False if it stays open for writing for 30 s without a change.
    """
    seen: tuple[int, int, int] | None = None
    since = 0.0
    while True:
        try:
            stat = file.stat()
        except OSError:  # reading it raises the error
            return True
        now, state = time.monotonic(), (stat.st_ino, stat.st_size, stat.st_mtime_ns)
        if state != seen:
            age = time.time() - stat.st_mtime if seen is None else 0.0
            seen, since = state, now - min(max(0.0, age), 2 * _PAUSE)  # twice: rounding may take some of it
        if now - since >= _PAUSE and not is_held(file):
            return True
        if now - since >= _PATIENCE:
            return False
        time.sleep(_TICK)
