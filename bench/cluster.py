"""What a cluster costs: `sarvel render --on` with workers on this machine against `--workers` with as many, from nothing.

    python bench/cluster.py [--workers N] [--masters N] [--runs N]

The site is the demo, with two workers; or one of N small masters, as in bench/nothing.py.

The scheduler and its workers stand ready; each run starts from no file and no ledger, in turn. Printed are the seconds of each
and their ratio, pair by pair.
"""

from __future__ import annotations

import argparse
import contextlib
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from nothing import make_site

from sarvel.demo import copy_site
from sarvel.files.ledger_rows import FILE_NAME

_PORT = 8799


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument("--masters", type=int, default=0)
    options = parser.parse_args()
    ratios = []
    with on_this_machine(options.workers) as (address, _), tempfile.TemporaryDirectory() as folder:
        site = Path(folder, "site")
        if options.masters:
            make_site(site, options.masters)
        else:
            copy_site(site)
        for run in range(options.runs):
            on, here = seconds(site, "--on", address), seconds(site, "--workers", str(options.workers))
            ratios.append(on / here)
            print(f"run {run + 1}: cluster {on:6.2f} s   here {here:6.2f} s   a/b {on / here:.3f}", flush=True)
    print(f"median a/b {statistics.median(ratios):.3f}")


@contextlib.contextmanager
def on_this_machine(workers: int) -> Iterator[tuple[str, int]]:
    """A scheduler and workers of one thread, for the length of the block: its address, and its process."""
    address = f"tcp://127.0.0.1:{_PORT}"
    dask = [sys.executable, "-m", "dask"]
    os.environ["DASK_DISTRIBUTED__WORKER__PROFILE__ENABLED"] = "False"  # it takes some 5 % of a core for each worker
    quiet = {"stdout": subprocess.DEVNULL, "stderr": subprocess.DEVNULL}
    scheduler = [*dask, "scheduler", "--host", "127.0.0.1", "--port", str(_PORT), "--no-dashboard", "--no-show"]
    worker = [*dask, "worker", address, "--nthreads", "1", "--no-dashboard", "--no-nanny"]
    commands = [scheduler, *[worker] * workers]
    started = [subprocess.Popen(command, **quiet) for command in commands]  # type: ignore[call-overload]
    try:
        yield address, started[0].pid
    finally:
        for one in started:
            one.kill()


def seconds(site: Path, *options: str) -> float:
    """How long a render from nothing takes."""
    shutil.rmtree(site / "public" / "pictures", ignore_errors=True)
    (site / FILE_NAME).unlink(missing_ok=True)
    start = time.perf_counter()
    plan = str(site / "sarvel.toml")
    subprocess.run([sys.executable, "-m", "sarvel", "render", "--quiet", "--plan", plan, *options], check=True)
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
