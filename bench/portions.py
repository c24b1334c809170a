"""The most memory that `sarvel build` takes of sites of few and of many masters: `python bench/portions.py [MASTERS...]`.

Sites of 1,000 and of 10,000 small masters, each in one slot, a hundred to a page, are built; then once more with a page changed.
Printed are the peak of the main process in MB and the seconds. Memory hangs on a portion, not on the site.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from PIL import Image

PLAN = """\
[site]
pages = ["pages"]
woven = "public"
[defaults]
formats = ["jpeg"]
quality = { jpeg = 80 }
[slots.card]
sizes = "24px"
"""
HEAD = '<!doctype html><meta name="viewport" content="width=device-width">\n'
ON_A_PAGE = 100


def main() -> None:
    """Measures and prints."""
    for count in [int(one) for one in sys.argv[1:]] or [1000, 10_000]:
        with tempfile.TemporaryDirectory() as folder:
            site = Path(folder)
            make_site(site, count)
            for what in ("built", "built again, a page changed"):
                began = time.monotonic()
                print(f"{count} masters, {what}: {peak(site):.0f} MB, {time.monotonic() - began:.0f} s", flush=True)
                page = site / "pages" / "p0.html"
                page.write_text(page.read_text("utf-8") + "<p>more", "utf-8")


def make_site(site: Path, count: int) -> None:
    """A site of so many masters."""
    for name in ("masters", "pages"):
        (site / name).mkdir()
    (site / "sarvel.toml").write_text(PLAN, encoding="utf-8")
    random = np.random.default_rng(1)
    for number in range(count):
        Image.fromarray(random.integers(0, 256, (60, 60, 3), np.uint8)).save(site / "masters" / f"m{number}.jpg")
    for first in range(0, count, ON_A_PAGE):
        tags = (f'<img data-sarvel="card" src="../masters/m{n}.jpg" alt="">\n' for n in range(first, first + ON_A_PAGE))
        (site / "pages" / f"p{first}.html").write_text(HEAD + "".join(tags), encoding="utf-8")


def peak(site: Path) -> float:
    """MB that the main process of a build takes at its peak; Linux gives it in KiB (getrusage(2))."""
    child = os.posix_spawnp(
        sys.executable,
        [sys.executable, "-m", "sarvel", "build", "--quiet", "--plan", str(site / "sarvel.toml")],
        os.environ,
    )
    _, status, usage = os.wait4(child, 0)
    assert os.waitstatus_to_exitcode(status) == 0
    return usage.ru_maxrss * 1024 / 1e6


if __name__ == "__main__":
    main()
