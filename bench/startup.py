"""How long `sarvel --help` takes, against a Python that does nothing: `python bench/startup.py`."""

from __future__ import annotations

import statistics
import subprocess
import sys
import time
from pathlib import Path

PAIRS = 25


def seconds(*command: str) -> float:
    """How long a command takes."""
    start = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - start


def main() -> None:
    """Measures in turn and prints the medians."""
    program = str(Path(sys.executable).parent / "sarvel")
    pairs = [(seconds(program, "--help"), seconds(sys.executable, "-c", "pass")) for _ in range(PAIRS)]
    ours, python = (statistics.median(times) for times in zip(*pairs, strict=True))
    ratio = statistics.median(a / b for a, b in pairs)
    print(f"sarvel --help {ours * 1000:.1f} ms   python -c pass {python * 1000:.1f} ms   ratio {ratio:.2f}")


if __name__ == "__main__":
    main()
