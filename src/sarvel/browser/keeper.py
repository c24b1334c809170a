"""The keeper of a browser: a process that starts a driver, and ends it and all that it started once its parent is gone.

It is run by its path, needs only the standard library, and notices its parent's end by the end of its standard input,
however that came: an interrupt, a closed terminal, SIGKILL. On Linux what loses its own parent becomes the keeper's child
(prctl(2), PR_SET_CHILD_SUBREAPER), and cannot get away.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from pathlib import Path

PREFIX = "sarvel-browser-"
"""What the names of folders of browsers begin with, in the system's folder for temporary files."""
LOCK = "keeper.lock"
"""The file in such a folder that is locked as long as its keeper lives."""

_SUBREAPER, _DEATH_SIGNAL = 36, 1  # PR_SET_CHILD_SUBREAPER, PR_SET_PDEATHSIG: linux/prctl.h
_ENDING = 5.0  # s that processes may take to be gone
_KILL = getattr(signal, "SIGKILL", signal.SIGTERM)


def keep(driver: str, folder: Path) -> None:
    """Starts a driver, prints its first output, and waits for the end of standard input.

    Args:
        folder: of the browser, for its temporary files too; it is removed at the end.
    """
    for name in ("SIGINT", "SIGTERM", "SIGHUP"):  # of a terminal, meant for the parent
        with contextlib.suppress(AttributeError, ValueError):
            signal.signal(getattr(signal, name), signal.SIG_IGN)
    lock = locked(folder)
    _prctl(_SUBREAPER)
    process = subprocess.Popen(  # noqa: S603 - the driver that was found on PATH
        [driver, "--port=0"],
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        env={**os.environ, "TMPDIR": str(folder)},
        preexec_fn=_die_with_parent if sys.platform == "linux" else None,  # noqa: PLW1509 - there is one thread yet
    )
    threading.Thread(target=_forward, args=(process,), daemon=True).start()
    with contextlib.suppress(OSError):
        while os.read(0, 4096):
            pass
    end_all(process.pid, folder)
    if lock is not None:
        os.close(lock)


def _forward(process: subprocess.Popen[bytes]) -> None:
    """Forwards a driver's output; if the driver ends, the rest is forwarded too."""
    for line in process.stdout or ():
        with contextlib.suppress(OSError):
            os.write(1, line)
    with contextlib.suppress(OSError):
        os.close(1)


def locked(folder: Path) -> int | None:
    """Locks the folder of a browser; returns a handle that holds the lock, or None where another one does, or nothing locks."""
    try:
        import fcntl
    except ImportError:
        return None
    try:
        handle = os.open(folder / LOCK, os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW | os.O_CLOEXEC, 0o600)
    except OSError:
        return None
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        os.close(handle)
        return None
    return handle


def end_all(first: int, folder: Path) -> None:
    """Ends a process and all that came of it, and removes the folder of its browser."""
    if os.name == "nt":
        with contextlib.suppress(OSError):
            subprocess.run(["taskkill", "/T", "/F", "/PID", str(first)], check=False, capture_output=True)  # noqa: S603, S607
    end = time.monotonic() + _ENDING
    left = {first, *descendants(os.getpid())}
    while left and time.monotonic() < end:
        for one in left:
            with contextlib.suppress(OSError):
                os.kill(one, _KILL)
        with contextlib.suppress(OSError, AttributeError):
            while os.waitpid(-1, os.WNOHANG)[0]:
                pass
        left = set(descendants(os.getpid()))
        if left:
            time.sleep(0.01)
    shutil.rmtree(folder, ignore_errors=True)


def descendants(of: int) -> list[int]:
    """The processes that came of one, as far as the system tells."""
    children: dict[int, list[int]] = {}
    for one, parent in _processes():
        children.setdefault(parent, []).append(one)
    found, waiting = [], [of]
    while waiting:
        some = children.get(waiting.pop(), [])
        found += some
        waiting += some
    return found


def _processes() -> list[tuple[int, int]]:
    """All processes, each with its parent."""
    found = []
    for stat in Path("/proc").glob("[0-9]*/stat") if sys.platform == "linux" else ():
        with contextlib.suppress(OSError, ValueError, IndexError):
            pid, rest = int(stat.parent.name), stat.read_text("utf-8", "replace").rpartition(")")[2].split()
            found.append((pid, int(rest[1])))  # proc(5): behind the name in parentheses, state and parent
    if not found and os.name == "posix":
        with contextlib.suppress(OSError, ValueError):
            told = subprocess.run(["ps", "-axo", "pid=,ppid="], check=False, capture_output=True, text=True).stdout  # noqa: S607
            found = [(int(one), int(parent)) for one, parent in map(str.split, told.splitlines())]
    return found


def _prctl(option: int, value: int = 1) -> None:
    with contextlib.suppress(OSError, AttributeError):  # systems that have no such call
        import ctypes

        ctypes.CDLL(None).prctl(option, value, 0, 0, 0)


def _die_with_parent() -> None:
    _prctl(_DEATH_SIGNAL, _KILL)


if __name__ == "__main__":
    keep(sys.argv[1], Path(sys.argv[2]))
