"""How the time and memory of `sarvel render` grow with the number of masters, from nothing.

    python bench/growth.py [--plot FILE]

Sites of 1, 10, 100 and 500 small masters, 18 files each, on one and on two workers. Printed is a table, and for each number of
workers the slope of the line fitted to the logarithms from 10 masters on: 1 is in proportion. The plot goes to docs/.
"""

from __future__ import annotations

import argparse
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from nothing import make_site

MASTERS = (1, 10, 100, 500)
WORKERS = (1, 2)


def main() -> None:
    """Measures, prints and draws."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--plot", type=Path, default=Path(__file__).parent.parent / "docs" / "growth.png")
    options = parser.parse_args()
    measured: dict[int, list[tuple[float, float]]] = {workers: [] for workers in WORKERS}
    print("| masters | files | workers | seconds | ms a file | peak MiB a process |")
    print("|---:|---:|---:|---:|---:|---:|")
    with tempfile.TemporaryDirectory() as folder:
        for count in MASTERS:
            site = Path(folder, str(count))
            make_site(site, count)
            for workers in WORKERS:
                seconds, memory = render(site, workers)
                files = len(list((site / "public" / "pictures").iterdir()))
                measured[workers].append((seconds, memory))
                print(f"| {count} | {files} | {workers} | {seconds:.2f} | {seconds / files * 1e3:.1f} | {memory:.0f} |")
    for workers, rows in measured.items():
        slope = np.polyfit(np.log(MASTERS[1:]), np.log([seconds for seconds, _ in rows[1:]]), 1)[0]
        print(f"{workers} worker{'s' if workers > 1 else ''}: slope {slope:.2f}")
    draw(measured, options.plot)


def render(site: Path, workers: int) -> tuple[float, float]:
    """Seconds of a render from nothing, and the MiB that its largest process held."""
    shutil.rmtree(site / "public", ignore_errors=True)
    (site / "sarvel.ledger").unlink(missing_ok=True)
    code = (
        "import resource, sys; from sarvel.cli.main import main; code = main(sys.argv[1:]);"
        "print(max(resource.getrusage(who).ru_maxrss for who in (resource.RUSAGE_SELF, resource.RUSAGE_CHILDREN)));"
        "sys.exit(code)"
    )
    command = ["render", "--quiet", "--workers", str(workers), "--plan", str(site / "sarvel.toml")]
    start = time.perf_counter()
    done = subprocess.run([sys.executable, "-c", code, *command], check=True, capture_output=True, text=True)
    return time.perf_counter() - start, int(done.stdout) / 1024  # KiB on Linux: getrusage(2)


def draw(measured: dict[int, list[tuple[float, float]]], file: Path) -> None:
    """The plot."""
    from matplotlib import pyplot as plt

    figure, axes = plt.subplots(figsize=(8, 5), layout="constrained")
    for workers, color in zip(WORKERS, ("#8a5a00", "#005f87"), strict=True):
        seconds = [one for one, _ in measured[workers]]
        label = f"{workers} worker{'s' if workers > 1 else ''}"
        axes.loglog(MASTERS, seconds, "o-", color=color, label=label)
    through = measured[1][-1][0]
    axes.loglog(MASTERS, [through * count / MASTERS[-1] for count in MASTERS], ":", color="#777", label="in proportion")
    axes.set_xlabel("masters, 18 files each")
    axes.set_ylabel("seconds of sarvel render, from nothing")
    axes.set_yticks((1, 10, 100), ("1", "10", "100"))
    axes.set_xticks(MASTERS, [str(count) for count in MASTERS])
    axes.grid(visible=True, which="major", color="#ddd")
    axes.legend(frameon=False)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    figure.savefig(file, dpi=110)


if __name__ == "__main__":
    main()
