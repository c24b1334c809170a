"""The memory of the coordinator of a cluster: the peak of `sarvel render --on`, for few and for many small masters.

    python bench/coordinator.py [MASTERS ...]

A scheduler and two workers run on this machine. Printed are, for each number of masters, seconds and the peak memory of the
coordinator and of the scheduler, which lives through all.
"""

from __future__ import annotations

import argparse
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from cluster import on_this_machine
from PIL import Image

PLAN = """\
[site]
pages = ["pages"]
output = "out"
[breakpoints]
phone = 0
[defaults]
formats = ["webp", "jpeg"]
quality = { webp = 40, jpeg = 90 }
[slots.badge]
masters = ["*"]
sizes = "40px"
"""
_SIDES = (90, 60)  # px of a master


def make_site(folder: Path, count: int) -> None:
    """A site of so many small masters, all of them different."""
    for name in ("masters", "pages"):
        (folder / name).mkdir(parents=True)
    (folder / "pages" / "index.html").write_text("<p>nothing</p>")
    (folder / "sarvel.toml").write_text(PLAN)
    random = np.random.default_rng(1)
    for number in range(count):
        pixels = random.integers(0, 256, (_SIDES[1] // 10, _SIDES[0] // 10, 3), np.uint8)
        Image.fromarray(pixels).resize(_SIDES).save(folder / "masters" / f"m{number:06}.jpg")


def peak(process: int | str) -> float:
    """The most memory that a process ever held, MB (proc(5), VmHWM)."""
    said = Path(f"/proc/{process}/status").read_text()
    return int(said.partition("VmHWM:")[2].split()[0]) / 1000


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("masters", type=int, nargs="*", default=[1000, 10_000])
    code = (
        "import pathlib, sys; from sarvel.cli.main import main; code = main(sys.argv[1:]); "
        "print(pathlib.Path('/proc/self/status').read_text().partition('VmHWM:')[2].split()[0]); sys.exit(code)"
    )
    with on_this_machine(workers=2) as (address, scheduler):
        for count in parser.parse_args().masters:
            with tempfile.TemporaryDirectory() as name:
                folder = Path(name, "site")
                make_site(folder, count)
                command = [sys.executable, "-c", code, "render", "--on", address, "--plan", str(folder / "sarvel.toml")]
                start = time.perf_counter()
                done = subprocess.run(command, stdout=subprocess.PIPE, text=True, check=True)
                seconds, (*said, held) = time.perf_counter() - start, done.stdout.splitlines()
                held_by = f"coordinator {int(held) / 1000:.0f} MB, scheduler {peak(scheduler):.0f} MB"
                print(f"{count} masters: {seconds:.0f} s, {held_by} ({said[-1].partition(',')[0]})", flush=True)


if __name__ == "__main__":
    main()
