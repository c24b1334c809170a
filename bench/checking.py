"""How fast `sarvel check` is.

    python bench/checking.py [--pages N] [--runs N]

N pages of 50 kB (1,000) with three pictures each, whose files and stylesheet are there, are checked by the installed program,
on one core. Printed are MB a second of the whole command, start-up included.
"""

from __future__ import annotations

import argparse
import os
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from PIL import Image

SIZES = "(min-width: 1200px) 50vw, 100vw"
PICTURE = """\
<picture>
  <source media="(min-width: 800px)" type="image/avif" srcset="p/{i}-1200.avif 1200w, p/{i}-600.avif 600w" sizes="{sizes}">
  <source media="(min-width: 800px)" type="image/webp" srcset="p/{i}-1200.webp 1200w, p/{i}-600.webp 600w" sizes="{sizes}">
  <img src="p/{i}-600.jpg" srcset="p/{i}-1200.jpg 1200w, p/{i}-600.jpg 600w" sizes="100vw" width="600" height="400" alt="A gull">
</picture>
"""
HEAD = '<!doctype html><head><meta name="viewport" content="width=device-width"><link rel="stylesheet" href="site.css"></head>\n'
PROSE = '<p class="prose">The <a href="/lamp">lamp</a> turns <em>slowly</em> over the sea, and nobody is there to see it.</p>\n'


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--pages", type=int, default=1_000)
    parser.add_argument("--runs", type=int, default=3)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        site = Path(folder)
        size = make_site(site, options.pages)
        rates = [size / seconds(site) / 1e6 for _ in range(options.runs)]
        print(f"{options.pages} pages, {size / 1e6:.1f} MB: {', '.join(f'{rate:.1f}' for rate in rates)} MB/s")
        print(f"median {statistics.median(rates):.1f} MB/s")


def make_site(site: Path, pages: int) -> int:
    """Writes pages and files; the bytes of all pages."""
    (site / "p").mkdir()
    for i in range(60):
        for width in (600, 1200):
            image = Image.new("RGB", (width, width * 2 // 3), (i, 90, 120))
            for ending in ("avif", "webp", "jpg"):
                image.save(site / "p" / f"{i}-{width}.{ending}")
    (site / "site.css").write_text("img { max-width: 100%; height: auto }\n" + "p.a { color: red }\n" * 1000)
    total = 0
    for page in range(pages):
        pictures = [PICTURE.format(i=(page * 3 + i) % 60, sizes=SIZES) for i in range(3)]
        prose = PROSE * ((50_000 - len(HEAD) - sum(map(len, pictures))) // len(PROSE) // 3)
        text = HEAD + prose.join(["", *pictures])
        (site / f"{page}.html").write_text(text)
        total += len(text)
    return total


def seconds(site: Path) -> float:
    """How long one run takes on one core."""
    start = time.perf_counter()
    command = [sys.executable, "-m", "sarvel", "check", "."]
    done = subprocess.run(
        command, cwd=site, check=False, capture_output=True, text=True, preexec_fn=lambda: os.sched_setaffinity(0, {0})
    )
    if not done.stdout.startswith(f"no fault found in {len(list(site.glob('*.html')))} pages"):
        raise SystemExit(done.stdout[:2000] + done.stderr)
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
