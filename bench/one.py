"""What a second core is good for when there is one master: `python bench/one.py [--runs N]`.

(a) is `sarvel one` of the demo's master of 15 megapixels, in two crops, with one worker; (b) is the same with two. Both run in
turn, each as a whole process; printed are the seconds of each and b/a, pair by pair. Half would be perfect; to start and to look
at the master takes a tenth of (a).
"""

from __future__ import annotations

import argparse
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from sarvel.demo import copy_site

CROPS = ("--crop", "0=4:5", "--crop", "1024=21:9")


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=5)
    ratios = []
    with tempfile.TemporaryDirectory() as folder:
        copy_site(Path(folder, "site"))
        master = Path(folder, "site", "masters", "lamp-at-dusk.jpg")
        for run in range(parser.parse_args().runs):
            one, two = (seconds(master, workers, Path(folder, f"{run}-{workers}")) for workers in (1, 2))
            ratios.append(two / one)
            print(f"run {run + 1}: one worker {one:6.2f} s   two {two:6.2f} s   b/a {two / one:.3f}")
    print(f"median b/a {statistics.median(ratios):.3f}, least {min(ratios):.3f}")


def seconds(master: Path, workers: int, output: Path) -> float:
    """Of one run, from nothing."""
    command = [sys.executable, "-m", "sarvel", "one", str(master), "--alt", "x", "--output", str(output), *CROPS]
    began = time.monotonic()
    subprocess.run([*command, "--workers", str(workers)], check=True, capture_output=True)
    return time.monotonic() - began


if __name__ == "__main__":
    main()
