"""How long it takes to draft, measure and confirm a site of many pages, against opening each of its pages once.

    python bench/measuring.py [SITE]

SITE is a folder of pages, which is copied; without one, 60 pages of three kinds are made, each with four images and a stylesheet
of 150 kB. Printed are seconds, and ratios to the time in which two browsers open every page once and wait until it is there.
"""

from __future__ import annotations

import argparse
import contextlib
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
from PIL import Image

from sarvel.browser.look import begin_with, steady
from sarvel.browser.session import Session
from sarvel.browser.several import looked_at
from sarvel.browser.site_server import Folders, SiteServer

PROGRAM = str(Path(sys.executable).parent / "sarvel")
PAGES = 60
KINDS = ("article", "gallery", "list")
CSS = """body {{ margin: 0 auto; max-width: 1100px }} img {{ max-width: 100% }}
.gallery img {{ width: 25% }} .list img {{ width: 120px }}
@media (min-width: 700px) {{ .article img {{ width: 60% }} }}
{}"""


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("site", nargs="?", type=Path)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        site = Path(folder, "site")
        if options.site:
            shutil.copytree(options.site, site)
        else:
            make_site(site)
        pages = sorted(site.rglob("*.html"))
        once = seconds(lambda: open_each(site, pages))
        print(f"{len(pages)} pages, each opened once: {once:.1f} s")
        for words in (("start",), ("start", "--measure"), ("build", "--quiet"), ("confirm",)):
            if words[0] == "start":
                (site / "sarvel.toml").unlink(missing_ok=True)
            took = seconds(lambda words=words: run(site, *words))  # type: ignore[misc]
            print(f"sarvel {' '.join(words):16} {took:7.1f} s   {took / once:5.2f} of opening each")


def run(site: Path, *words: str) -> None:
    """Runs a command; what it finds does not matter here."""
    subprocess.run([PROGRAM, *words], cwd=site, check=False, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def seconds(what: Callable[[], object]) -> float:
    """How long something takes."""
    start = time.perf_counter()
    what()
    return time.perf_counter() - start


def open_each(site: Path, pages: list[Path]) -> None:
    """Opens every page with two browsers."""
    server = SiteServer(Folders([site]), {})

    @contextlib.contextmanager
    def begin(browser: Session) -> Iterator[Callable[[Path], None]]:
        begin_with(browser)

        def look(page: Path) -> None:
            here = browser.at(server.address)
            here.open(f"/{page.relative_to(site).as_posix()}")
            steady(here)

        yield look

    list(looked_at(pages, begin, None, 2))
    server.close()


def make_site(site: Path) -> None:
    """Makes the pages, the stylesheet and the images."""
    (site / "img").mkdir(parents=True)
    waves = np.sin(np.arange(1600) / 40)[None, :] * np.cos(np.arange(1000) / 30)[:, None]
    for number in range(4):
        picture = ((waves[..., None] + [1, 1.1, 0.9]) * (60 + number)).clip(0, 255).astype(np.uint8)
        Image.fromarray(picture).save(site / "img" / f"{number}.jpg", quality=90)
    rules = (f".box-{n} > .part:not(.off) {{ padding: {n % 9}px; color: #345 }}" for n in range(2_500))
    (site / "site.css").write_text(CSS.format("\n".join(rules)))
    for number in range(PAGES):
        images = "".join(f'<p>Seals lie on the ledge.</p><img src="img/{n}.jpg" alt="Seals">' for n in range(4))
        body = f'<div class="{KINDS[number % 3]}">{images}{"<p>The boat comes on Fridays.</p>" * number}</div>'
        head = '<!doctype html><meta charset="utf-8"><link rel="stylesheet" href="site.css">'
        (site / f"{number:03}.html").write_text(f"{head}<body>{body}</body>")


if __name__ == "__main__":
    main()
