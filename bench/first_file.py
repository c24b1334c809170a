"""What a person sees of a cold build: when the first file is there, and how right the time left is.

    python bench/first_file.py [--runs N]

`sarvel build` of the demo, from no file and no ledger, on a terminal of its own. Printed are the seconds until it counts a file,
those of the whole build, their ratio, and between a tenth of the files and the end of rendering, by how much the time left
that it tells is off: the median and the worst, as a share of the truth. Two seconds off are never counted.
"""

from __future__ import annotations

import argparse
import os
import pty
import re
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

_SHOWN = re.compile(r"(\d+)/(\d+)(?: +(?:(\d+) (s|min) left)?)?")
_CONTROL = re.compile(r"\x1b\[[0-9;?]*[A-Za-z]")
_NEGLIGIBLE = 2.0  # s


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=3)
    for run in range(parser.parse_args().runs):
        told, end = cold_build()
        first = next(when for when, count, _, _ in told if count)
        rendered = max(when for when, _, _, _ in told)
        errors = [
            max(0.0, abs(left - (rendered - when)) - _NEGLIGIBLE) / max(1.0, rendered - when)
            for when, count, whole, left in told
            if left is not None and count >= whole / 10
        ]
        print(
            f"run {run + 1}: first file {first:.1f} s   all {end:.1f} s   {first / end:.3f}   "
            f"time left off by {statistics.median(errors):.0%}, at most {max(errors):.0%}"
        )


def cold_build() -> tuple[list[tuple[float, int, int, float | None]], float]:
    """What the bar of a build shows: when, how many files of how many, the seconds left; and how long all took."""
    with tempfile.TemporaryDirectory() as folder:
        site = Path(folder, "demo")
        subprocess.run([sys.executable, "-m", "sarvel", "demo", str(site)], check=True, stdout=subprocess.DEVNULL)
        shutil.rmtree(site / "public" / "pictures")
        (site / "sarvel.ledger").unlink()
        ours, theirs = pty.openpty()
        start = time.perf_counter()
        command, environment = (
            [sys.executable, "-m", "sarvel", "build"],
            os.environ | {"TERM": "xterm", "COLUMNS": "160"},
        )
        with subprocess.Popen(command, cwd=site, stdout=theirs, stderr=theirs, env=environment) as running:
            os.close(theirs)
            told: list[tuple[float, int, int, float | None]] = []
            while text := read(ours):
                for count, whole, number, unit in _SHOWN.findall(_CONTROL.sub("", text)):
                    left = float(number) * (60 if unit == "min" else 1) if number else None
                    told.append((time.perf_counter() - start, int(count), int(whole), left))
            running.wait()
        os.close(ours)
        return told, time.perf_counter() - start


def read(terminal: int) -> str:
    """What a program printed since; "" once it has ended."""
    try:
        return os.read(terminal, 65536).decode(errors="replace")
    except OSError:
        return ""


if __name__ == "__main__":
    main()
