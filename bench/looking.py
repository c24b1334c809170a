"""Time that a real browser takes: `measure` and `confirm` of the demo, held against opening its pages as often.

    python bench/looking.py

Prints seconds, looks at a page in a second, and how many times as long as so many plain openings of a page it takes: a look
at one more viewport should cost a small part of opening the page anew.
"""

from __future__ import annotations

import contextlib
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from sarvel.browser.page_boxes import measure
from sarvel.browser.session import session
from sarvel.browser.site_server import Folders, SiteServer

DEVICES = ("360x740@3", "768x1024@2", "1440x900@1", "1920x1080@2")


def main() -> None:
    """Measures."""
    with tempfile.TemporaryDirectory() as name:
        site = Path(name) / "site"
        program = [str(Path(sys.executable).with_name("sarvel"))]
        subprocess.run([*program, "demo", str(site), "--quiet"], check=True)
        looks(site)
        for words in (["measure"], ["confirm", *(word for one in DEVICES for word in ("--device", one))]):
            with timed(" ".join(words)):
                subprocess.run([*program, *words, "--quiet"], cwd=site, check=True)


def looks(site: Path) -> None:
    """Looks at one page on all viewports, against as many openings of it."""
    server = SiteServer(Folders([site / "public", site]), {"/index.html": marked(site)})
    with session(server.address, None) as browser:
        start = time.perf_counter()
        found = measure(browser, "/index.html")
        seconds = time.perf_counter() - start
        count = max(map(len, found.boxes.values()))
        start = time.perf_counter()
        for _ in range(10):
            browser.open("/index.html")
        opening = (time.perf_counter() - start) / 10
    server.close()
    told = f"{count} looks at a page: {seconds:.1f} s, {count / seconds:.0f} a second"
    print(f"{told}; {seconds / count / opening:.2f} of opening it as often")


def marked(site: Path) -> bytes:
    """The demo's home page, its images marked as places."""
    parts = (site / "public" / "index.html").read_text().split("<img")
    return "".join(
        f'<img data-sarvel-place="{number}"{part}' if number else part for number, part in enumerate(parts)
    ).encode()


@contextlib.contextmanager
def timed(what: str) -> Iterator[None]:
    """Prints the seconds that a block takes."""
    start = time.perf_counter()
    yield
    print(f"{what}: {time.perf_counter() - start:.1f} s")


if __name__ == "__main__":
    main()
