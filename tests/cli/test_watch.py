"""`sarvel build --watch`: builds again at each change, and loses none."""

import os
import queue
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from tests.conftest import PAGE, PLAN


class Watched:
    """The program at work, and what it says, line by line."""

    def __init__(self, site: Path) -> None:
        program = Path(sys.executable).parent / "sarvel"
        self.process = subprocess.Popen(
            [program, "build", "--watch"], cwd=site, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
            env={**os.environ, "PYTHONUNBUFFERED": "1"}, start_new_session=True,
        )  # fmt: skip
        self.lines: queue.Queue[str] = queue.Queue()
        self.reader = threading.Thread(target=self._read, daemon=True)
        self.reader.start()

    def _read(self) -> None:
        assert self.process.stdout
        with self.process.stdout as said:
            for line in said:
                self.lines.put(line)

    def until(self, words: str) -> str:
        """The next line that holds the words."""
        seen, end = [], time.monotonic() + 60
        while time.monotonic() < end:
            try:
                seen.append(self.lines.get(timeout=0.2))
            except queue.Empty:
                continue
            if words in seen[-1]:
                return seen[-1]
        raise AssertionError(seen)


def wait_for(holds: Callable[[], bool]) -> None:
    end = time.monotonic() + 60
    while not holds():
        assert time.monotonic() < end
        time.sleep(0.1)


@pytest.fixture
def watched(rendered: Path) -> Iterator[Watched]:
    watched = Watched(rendered)
    yield watched
    if watched.process.poll() is None:
        os.killpg(watched.process.pid, signal.SIGKILL)
    watched.process.wait()
    watched.reader.join(10)


def test_it_builds_at_each_change(rendered: Path, watched: Watched) -> None:
    watched.until("watching ")
    page = rendered / "pages" / "index.html"
    assert "<picture" in page.read_text()
    page.write_text(PAGE.replace("</p>", "and more</p>"))
    assert "pages/index.html" in watched.until(" changed: ")
    wait_for(lambda: "<picture" in page.read_text())
    assert "and more" in page.read_text()
    (rendered / "sarvel.toml").write_text(PLAN.replace("widths = 2", "wdiths = 2"))
    watched.until("sarvel.toml:11: defaults.wdiths: unknown key; did you mean 'widths'?")
    (rendered / "sarvel.toml").write_text(PLAN.replace('"40px"', '"30px"'))
    wait_for(
        lambda: any(file.name.startswith("seal-badge-30.") for file in (rendered / "public" / "pictures").iterdir())
    )


def test_a_burst_of_changes_is_not_lost(rendered: Path, watched: Watched) -> None:
    watched.until("watching ")
    for i in range(30):
        (rendered / "pages" / f"new{i}.html").write_text('<img data-sarvel="badge" src="../masters/seal.png" alt="">')
        time.sleep(0.02)
    wait_for(lambda: all("srcset" in (rendered / "pages" / f"new{i}.html").read_text() for i in range(30)))


def test_an_interrupt_ends_it(watched: Watched) -> None:
    watched.until("watching ")
    os.killpg(watched.process.pid, signal.SIGINT)
    watched.until("interrupted; finished work is kept")
    assert watched.process.wait(10) == 130
