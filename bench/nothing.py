"""What a run with nothing to do costs, and one with one master changed, on a large site.

    python bench/nothing.py [--masters N] [--runs N]

A site of N small masters (500), each in two slots, some 20 files a master, is rendered once. Then, in turn: (a) `sarvel render`
with nothing to do, (b) a Python process that imports pathlib and stats the same files, and (e) `sarvel build` with nothing to do.
Printed are seconds, a/b, e/a, how long `sarvel report` takes and its ratio to e, and the peak memory. Last, (c) one master
changed among all, against (d) a site of that master alone, in which it changed as well.
"""

from __future__ import annotations

import argparse
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from PIL import Image

PLAN = """\
[site]
pages = ["pages"]
[breakpoints]
phone = 0
desktop = 800
[defaults]
formats = ["webp", "jpeg"]
quality = { webp = 20, jpeg = 90 }
[slots.card]
sizes = { phone = "100px", desktop = "8vw" }
crops = { phone = "1:1", desktop = "3:2" }
widths = 4
[slots.badge]
sizes = "24px"
[masters."gull.png"]
alt = "A gull"
"""
STAT = """\
import os, pathlib, sys
for folder in sys.argv[1:]:
    for file in pathlib.Path(folder).iterdir():
        file.stat()
"""


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--masters", type=int, default=500)
    parser.add_argument("--runs", type=int, default=5)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        site, alone = Path(folder, "site"), Path(folder, "alone")
        make_site(site, options.masters)
        make_site(alone, 1)
        render(site)
        for _ in range(2):  # the first weaves pages that were written a moment ago
            build(site)
            render(site)
            time.sleep(2.1)
        count = len(list((site / "public" / "pictures").iterdir()))
        print(f"{options.masters} masters, {count} renditions")
        ratios, builds = [], []
        for run in range(options.runs):
            a = seconds(render, site)
            b = seconds(lambda site: python("-c", STAT, str(site / "masters"), str(site / "public" / "pictures")), site)
            e = seconds(build, site)
            ratios.append(a / b)
            builds.append(e / a)
            print(
                f"run {run + 1}: render {a:.3f} s   stat {b:.3f} s   build {e:.3f} s   a/b {a / b:.2f}   e/a {e / a:.2f}"
            )
        print(f"median a/b {statistics.median(ratios):.2f}   e/a {statistics.median(builds):.2f}")
        told = statistics.median(seconds(report, site) for _ in range(2))
        print(f"report {told:.1f} s   report/e {told / e:.1f}")
        ratios = []
        for run in range(options.runs):
            for place in (site, alone):
                draw(place / "masters" / "m0.png", 10_000 + run)
            c, d = seconds(render, site), seconds(render, alone)
            ratios.append(c / d)
            print(f"run {run + 1}: one changed {c:.3f} s   alone {d:.3f} s   c/d {c / d:.2f}")
        print(f"median c/d {statistics.median(ratios):.2f}")
        print(f"peak memory {resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024:.0f} MiB")


def make_site(folder: Path, masters: int) -> None:
    """A site of so many masters, the same each time, written long ago."""
    (folder / "masters").mkdir(parents=True)
    (folder / "pages").mkdir()
    for i in range(masters):
        draw(folder / "masters" / f"m{i}.png", i)
    for page in range(0, masters, 50):
        tags = "".join(
            f'<img data-sarvel="{slot}" src="../masters/m{i}.png" alt="">\n'
            for i in range(page, min(page + 50, masters))
            for slot in ("card", "badge")
        )
        (folder / "pages" / f"p{page}.html").write_text(tags)
    (folder / "sarvel.toml").write_text(PLAN.replace('[masters."gull.png"]\nalt = "A gull"\n', ""))


def draw(file: Path, seed: int) -> None:
    """A small master."""
    random = np.random.default_rng(seed)
    Image.fromarray(random.integers(0, 256, (12, 18, 3), np.uint8).repeat(25, 0).repeat(25, 1)).save(file)
    os.utime(file, (1e9 + seed, 1e9 + seed))


def render(site: Path) -> None:
    """`sarvel render`."""
    python("-m", "sarvel", "render", "--quiet", "--plan", str(site / "sarvel.toml"))


def build(site: Path) -> None:
    """`sarvel build`."""
    python("-m", "sarvel", "build", "--quiet", "--plan", str(site / "sarvel.toml"))


def report(site: Path) -> None:
    """`sarvel report`."""
    python("-m", "sarvel", "report", "--quiet", "--plan", str(site / "sarvel.toml"))


def python(*arguments: str) -> None:
    """A Python process."""
    subprocess.run([sys.executable, *arguments], check=True, stderr=subprocess.DEVNULL)


def seconds(work: object, site: Path) -> float:
    """How long it takes."""
    start = time.perf_counter()
    work(site)  # type: ignore[operator]
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
