"""Hours against workers for very many masters: a simulation of the cluster's scheduling, with recorded times of the demo.

    python bench/schedule.py [--record] [--plot FILE]

A master of a shop is commonly one crop in three formats; the demo's crops stand for them, with the seconds that each took on one
core (--record times them anew). Works are handed to whichever thread is free, one each; a coordinator takes results in one after
the other. Workers of two kinds are simulated: equal ones that never fail, and such of which 3 in 100 are four times as slow,
and each is lost once in 100 hours, its work done anew by another and itself back after 5 minutes. Ten million masters are ten
shards by digest, each with a tenth of the workers, a coordinator and a ledger of its own.
"""

from __future__ import annotations

import argparse
import heapq
import tempfile
import time
from dataclasses import replace
from pathlib import Path

import numpy as np

from sarvel.demo import copy_site
from sarvel.files.ledger import Ledger
from sarvel.files.output_folder import OutputFolder
from sarvel.pipeline.site import read_site
from sarvel.pipeline.todo import work_to_do
from sarvel.plan.read import read_plan
from sarvel.workers.make import do_work

RECORDED = (8.1, 6.9, 8.7, 5.1, 5.6, 8.3, 8.6, 10.5, 21.5, 9.3, 6.6, 12.2, 5.7, 13.6, 2.3)
"""Seconds of each of the demo's crops, decoded, searched and encoded with normal effort on one core of a machine of 2026."""

_COORDINATOR = (
    0.01  # s that a coordinator takes for a master: its work and result as bytes, and 20 rows of the ledger; measured
)
_SHOP, _SHARD, _SHARDS = 200_000, 1_000_000, 10
_WORKERS = (1, 3, 10, 30, 100, 300, 1000)
_SLOW, _SLOWNESS = 0.03, 4.0
_LOST_EACH, _BACK = 100 * 3600.0, 300.0  # s of work, s


def main() -> None:
    """Simulates, prints and draws."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--record", action="store_true")
    parser.add_argument("--plot", type=Path, default=Path(__file__).parent.parent / "docs" / "hours.png")
    options = parser.parse_args()
    seconds = recorded() if options.record else RECORDED
    mean = float(np.mean(seconds))
    print(f"seconds of a master: {', '.join(f'{one:.1f}' for one in seconds)}; mean {mean:.1f}")
    hours: dict[tuple[int, bool], list[float]] = {}
    print("masters  threads   equal, h   others, h   core-hours")
    for masters, shards in ((_SHOP, 1), (_SHARD, _SHARDS)):
        for threads in _WORKERS:
            both = [simulated(masters, threads, seconds, fails=fails) / 3600 for fails in (False, True)]
            for fails, one in zip((False, True), both, strict=True):
                hours.setdefault((masters * shards, fails), []).append(one)
            whole = masters * shards * mean / 3600
            print(
                f"{masters * shards:8} {threads * shards:7} {both[0]:10.1f} {both[1]:11.1f} {whole:12.0f}", flush=True
            )
    draw(hours, mean, options.plot)


def recorded() -> tuple[float, ...]:
    """Times each crop of the demo."""
    with tempfile.TemporaryDirectory() as folder:
        copy_site(Path(folder, "site"))
        plan = read_plan(Path(folder, "site", "sarvel.toml"))
        edition = read_site(plan, Ledger()).edition
        works = work_to_do(edition, plan.masters_folder.joinpath, OutputFolder(plan.output), Ledger()).works
        found = []
        for work in works:
            for crop in work.crops:
                start = time.perf_counter()
                do_work(replace(work, crops=(crop,)))
                found.append(time.perf_counter() - start)
    return tuple(found)


def simulated(masters: int, threads: int, seconds: tuple[float, ...], *, fails: bool) -> float:
    """S until all masters are made.

    Args:
        masters: how many.
        threads: of all workers together.
        seconds: what a master takes, one of these at random.
        fails: whether some workers are slow, and all are lost now and then.
    """
    random = np.random.default_rng(1)
    takes = random.choice(seconds, masters).tolist()
    slow = random.random(threads) < _SLOW
    free = [(0.0, worker) for worker in range(threads)]
    coordinator = end = 0.0
    while takes:
        at, worker = heapq.heappop(free)
        at = coordinator = max(at, coordinator) + _COORDINATOR  # its last result is taken in, and a work goes out
        take = takes.pop() * (_SLOWNESS if fails and slow[worker] else 1)
        if fails and random.random() < take / _LOST_EACH:
            takes.append(take)
            heapq.heappush(free, (at + take * random.random() + _BACK, worker))
            continue
        end = max(end, at + take)
        heapq.heappush(free, (at + take, worker))
    return end


def draw(hours: dict[tuple[int, bool], list[float]], mean: float, file: Path) -> None:
    """The plot."""
    from matplotlib import pyplot as plt

    figure, axes = plt.subplots(figsize=(8, 5), layout="constrained")
    for (masters, fails), color in zip(hours, ("#1b6a8f", "#1b6a8f", "#b4552d", "#b4552d"), strict=True):
        shards = _SHARDS if masters > _SHOP else 1
        threads = np.array(_WORKERS) * shards
        name = f"{masters:,} masters" + (f", {shards} shards" if shards > 1 else "")
        kind = "some slow, some lost" if fails else "equal workers"
        axes.plot(threads, hours[masters, fails], "o-" if fails else "s:", color=color, label=f"{name}: {kind}", ms=4)
    axes.axhline(5, color="#777777", lw=0.8)
    along = axes.get_yaxis_transform()
    axes.text(0.01, 5.3, "an afternoon", transform=along, fontsize=9, color="#555555")
    axes.set(xscale="log", yscale="log", xlabel="threads of all workers", ylabel="hours")
    for axis, last in ((axes.xaxis, 4), (axes.yaxis, 3)):
        axis.set_ticks([10**i for i in range(last + 1)], [f"{10**i:,}" for i in range(last + 1)])
    axes.set_title(f"Hours until all is made, at {mean:.1f} s a master", loc="left", fontsize=11)
    axes.grid(alpha=0.25)
    axes.legend(frameon=False, fontsize=9)
    for side in ("top", "right"):
        axes.spines[side].set_visible(False)
    figure.savefig(file, dpi=110)


if __name__ == "__main__":
    main()
