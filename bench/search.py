"""What the search for encoder numbers adds to a first render of the demo.

    python bench/search.py [--runs N]

(a) is `sarvel render` from nothing: no file, no ledger. (b) is the same with the ledger of (a), so that all numbers are
known, and no file. Printed are the seconds of each and a/b, pair by pair.
"""

from __future__ import annotations

import argparse
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from sarvel.demo import copy_site
from sarvel.files.ledger_rows import FILE_NAME


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=3)
    runs = parser.parse_args().runs
    ratios = []
    with tempfile.TemporaryDirectory() as folder:
        site = Path(folder, "site")
        copy_site(site)
        command = [sys.executable, "-m", "sarvel", "render", "--quiet", "--plan", str(site / "sarvel.toml")]
        for run in range(runs):
            (site / FILE_NAME).unlink(missing_ok=True)
            first, later = (seconds(command, site / "public") for _ in range(2))
            ratios.append(first / later)
            print(f"run {run + 1}: numbers searched {first:6.2f} s   known {later:6.2f} s   a/b {first / later:.3f}")
    print(f"median a/b {statistics.median(ratios):.3f}")


def seconds(command: list[str], output: Path) -> float:
    """How long a command takes that fills the output folder, which is emptied before."""
    shutil.rmtree(output, ignore_errors=True)
    start = time.perf_counter()
    subprocess.run(command, check=True)
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
