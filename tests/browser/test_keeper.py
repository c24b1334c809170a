"""A browser ends with the program that started it, however that ends, and leaves nothing in the folder of temporary files."""

import os
import random
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from sarvel.browser import keeper
from sarvel.browser.kept_driver import kept_driver
from tests.serving import until

pytestmark = pytest.mark.browser

SIGNALS = [signal.SIGKILL, signal.SIGTERM, signal.SIGHUP, signal.SIGINT]


@pytest.fixture
def folder(monkeypatch: pytest.MonkeyPatch) -> Path:
    """For temporary files: with a short name, or the browser's socket would have none."""
    folder = Path(f"/tmp/sv{os.getpid()}")  # noqa: S108 - of this process alone
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir()
    monkeypatch.setenv("TMPDIR", str(folder))
    monkeypatch.setattr("tempfile.tempdir", None)
    return folder


def left(folder: Path) -> list[str]:
    """What is in the folder, and processes that name it."""
    found = [file.name for file in folder.iterdir() if file.name.startswith((keeper.PREFIX, ".org.", ".com."))]
    for line in Path("/proc").glob("[0-9]*/cmdline"):
        try:
            found += [line.parent.name] if os.fsencode(folder) in line.read_bytes() else []
        except OSError:
            continue
    return found


@pytest.mark.parametrize(("end", "after"), [(end, after) for end in SIGNALS for after in (0.9, 2.5)])
def test_a_browser_ends_with_its_parent(demo: Path, folder: Path, end: signal.Signals, after: float) -> None:
    process = subprocess.Popen(
        [Path(sys.executable).parent / "sarvel", "measure"],
        cwd=demo,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    until(lambda: left(folder))
    time.sleep(after * random.random())
    process.send_signal(end)
    process.wait(30)
    until(lambda: not left(folder), 15)


def test_a_keeper_that_is_killed_leaves_no_process_and_the_next_run_its_folder(folder: Path) -> None:
    with kept_driver() as kept:
        (one,) = [
            int(line.parent.name)
            for line in Path("/proc").glob("[0-9]*/cmdline")
            if b"/keeper.py\0" in read(line) and f"\nPPid:\t{os.getpid()}\n".encode() in read(line.with_name("status"))
        ]
        os.kill(one, signal.SIGKILL)
    assert kept.profile.parent.is_dir()
    until(lambda: left(folder) == [kept.profile.parent.name], 15)
    with kept_driver() as other:
        assert not kept.profile.parent.exists() and other.profile.parent.is_dir()
    assert left(folder) == []


def read(file: Path) -> bytes:
    try:
        return file.read_bytes()
    except OSError:
        return b""
