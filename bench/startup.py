"""How long commands take that have little to do, against a Python that does nothing, and how many modules they load.

    python bench/startup.py [--pairs N]

The commands run on a demo site that was built a moment ago.
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

PROGRAM = str(Path(sys.executable).parent / "sarvel")
COMMANDS = ("--help", "--version", "check --help", "weave", "check public/index.html", "render")
COUNT = """\
import sys
from sarvel.__main__ import run
try:
    run()
except SystemExit:
    print(len(sys.modules), file=sys.stderr)
"""


def main() -> None:
    """Measures in turn and prints the medians."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--pairs", type=int, default=15)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        site = Path(folder, "site")
        subprocess.run([PROGRAM, "demo", str(site)], check=True, stdout=subprocess.DEVNULL)
        for _ in range(2):  # the first run after pages were written reads them once more
            time.sleep(2.1)
            subprocess.run([PROGRAM, "render"], cwd=site, check=True, stdout=subprocess.DEVNULL)
        os.chdir(site)
        for words in COMMANDS:
            pairs = [
                (seconds(PROGRAM, *words.split()), seconds(sys.executable, "-c", "pass")) for _ in range(options.pairs)
            ]
            ours, python = (statistics.median(times) * 1000 for times in zip(*pairs, strict=True))
            ratio = statistics.median(a / b for a, b in pairs)
            done = subprocess.run(
                [sys.executable, "-c", COUNT, *words.split()], check=False, capture_output=True, text=True
            )
            modules = done.stderr.splitlines()[-1]
            print(
                f"sarvel {words:24} {ours:6.1f} ms   python -c pass {python:5.1f} ms   ratio {ratio:5.2f}   {modules} modules"
            )


def seconds(*command: str) -> float:
    """How long a command takes."""
    start = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
