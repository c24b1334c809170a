"""A driver with its browser, in a folder of its own: however this run ends, both end and the folder is removed."""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import subprocess
import sys
import tempfile
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from sarvel.browser import keeper
from sarvel.errors import BrowserError

INSTALL = (
    "needs the extra browser and a browser itself: pip install 'sarvel[browser]'; apt install chromium chromium-driver"
)
"""What to do where there is no browser."""

_NAMES = ("chromium", "chromium-browser", "google-chrome", "google-chrome-stable", "chrome")
_STARTED = re.compile(rb"started successfully on port (\d+)")
_STARTING = 20.0  # s that a driver may take to start
_ENDING = 10.0  # s that its keeper may take to end it
_LONGEST = 40  # bytes of the folder that it is made in: the path of the browser's socket may have 107 (unix(7))


@dataclass(frozen=True)
class KeptDriver:
    """A driver that runs.

    Attributes:
        profile: the folder of the browser's profile.
    """

    address: str
    browser: str
    profile: Path


@contextlib.contextmanager
def kept_driver() -> Iterator[KeptDriver]:
    """A driver for the length of the block; what earlier ones left that could not end is removed.

    Raises:
        BrowserError: it is missing, or it does not start.
    """
    browser = next((found for name in _NAMES if (found := shutil.which(name))), None)
    driver = shutil.which("chromedriver")
    if not browser or not driver:
        raise BrowserError.at("", "there is no browser", INSTALL)
    top = _top()
    _sweep(top)
    folder = Path(tempfile.mkdtemp(prefix=keeper.PREFIX, dir=top))
    process = subprocess.Popen(  # noqa: S603 - our own file
        [sys.executable, "-I", "-S", keeper.__file__, driver, str(folder)],
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        start_new_session=True,  # an interrupt of the terminal is this process's alone
    )
    try:
        yield KeptDriver(f"http://127.0.0.1:{_port(process)}", browser, folder / "profile")
    finally:
        if process.stdin:
            process.stdin.close()
        with contextlib.suppress(subprocess.TimeoutExpired):
            process.wait(_ENDING)
        if process.stdout:
            process.stdout.close()


def _port(process: subprocess.Popen[bytes]) -> int:
    """The port that a driver listens at, as it says when it has started.

    Raises:
        BrowserError: it does not state so in time.
    """
    late = threading.Timer(_STARTING, process.kill)
    late.daemon = True
    late.start()
    try:
        for line in process.stdout or ():
            if found := _STARTED.search(line):
                return int(found[1])
    finally:
        late.cancel()
    raise BrowserError.at("chromedriver", "does not start", INSTALL)


def _top() -> Path:
    """The folder for temporary files, or the common one where its path is long."""
    top, common = Path(tempfile.gettempdir()), Path("/tmp")  # noqa: S108 - the folder in it has a name that no one guesses
    is_long = sys.platform != "win32" and len(os.fsencode(top)) > _LONGEST
    return common if is_long and os.access(common, os.W_OK) else top


def _sweep(top: Path) -> None:
    """Removes folders whose keepers were killed themselves."""
    for folder in top.glob(f"{keeper.PREFIX}*"):
        with contextlib.suppress(OSError):
            if folder.is_symlink() or not (folder / keeper.LOCK).exists():
                continue
            lock = keeper.locked(folder)
            if lock is not None:
                shutil.rmtree(folder, ignore_errors=True)
                os.close(lock)
