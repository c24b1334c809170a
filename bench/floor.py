"""How near `sarvel render` comes to the floor that the encoders set.

    python bench/floor.py [--workers N] [--runs N]

(a) is `sarvel render` on the demo site, from nothing. (b) is a bare loop on as many processes: it decodes each master once
and makes the same encodes with the same settings from pixels that are ready. Both run in turn, each as a whole process;
printed are the seconds of each and their ratio a/b, pair by pair. Encoder numbers are fixed in both; what finding them
adds is measured by bench/search.py.
"""

from __future__ import annotations

import argparse
import pickle
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

import numpy as np
from PIL import Image

from sarvel.core.pixels.resample import pixels_from_light
from sarvel.demo import copy_site
from sarvel.job.site import read_site
from sarvel.plan.read import read_plan
from sarvel.press.codecs import CODECS, Settings
from sarvel.press.cores import available_workers
from sarvel.press.decode import decode
from sarvel.press.ledger import FILE_NAME, Ledger
from sarvel.press.rungs import rung
from sarvel.press.todo import work_to_do
from sarvel.press.work import MasterWork

BY_HAND = "{ avif = 60, webp = 80, jpeg = 82 }"  # fixed, so that no time goes into finding numbers

Ready = dict[tuple[int, tuple[int, int]], Path]  # cut and size to the file of its pixels


def prepare(work: MasterWork, folder: Path) -> Ready:
    """Makes the pixels of every rung of one master, so that the bare loop need not."""
    ready: Ready = {}
    master = decode(work.file, work.key, "srgb")
    for i, cut in enumerate(work.cuts):
        for size in cut.sizes():
            ready[i, size] = folder / f"{work.key}-{i}-{size[0]}.npy"
            np.save(ready[i, size], pixels_from_light(rung(master, cut, size)))
    return ready


def bare(work: MasterWork, ready: Ready) -> None:
    """The floor of one master: one decode, and the encodes."""
    with Image.open(work.file) as image:
        image.load()
    for i, cut in enumerate(work.cuts):
        for rendition in cut.renditions:
            settings = Settings(rendition.encoding.quality, rendition.encoding.drawn)
            content = CODECS[rendition.format].encode(np.load(ready[i, rendition.size]), settings)
            (work.output / rendition.name).write_bytes(content)


def bare_loop(jobs: Path, workers: int) -> None:
    """(b), in a process of its own."""
    works: list[tuple[MasterWork, Ready]] = pickle.loads(jobs.read_bytes())  # noqa: S301 - written by ourselves above
    works[0][0].output.mkdir(parents=True)
    with ProcessPoolExecutor(workers, mp_context=get_context("spawn")) as pool:
        for task in [pool.submit(bare, *job) for job in works]:
            task.result()


def seconds(command: list[str], output: Path) -> float:
    """How long a command takes that fills the output folder, which is emptied before; there is no ledger then."""
    shutil.rmtree(output, ignore_errors=True)
    (output.parent.parent / FILE_NAME).unlink(missing_ok=True)
    start = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - start


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--workers", type=int, default=available_workers())
    parser.add_argument("--runs", type=int, default=3)
    parser.add_argument("--bare", type=Path, help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.bare:
        bare_loop(options.bare, options.workers)
        return
    with tempfile.TemporaryDirectory() as folder:
        site, jobs = Path(folder, "site"), Path(folder, "jobs")
        copy_site(site)
        said = site / "sarvel.toml"
        said.write_text(said.read_text().replace("[defaults]", f"[defaults]\nquality = {BY_HAND}"))
        plan = read_plan(said)
        works = work_to_do(read_site(plan, Ledger()).edition, plan.masters_folder, plan.output, Ledger()).works
        jobs.write_bytes(pickle.dumps([(work, prepare(work, Path(folder))) for work in works]))
        ours = [sys.executable, "-m", "sarvel", "render", "--plan", str(plan.file), "--workers", str(options.workers)]
        floor = [sys.executable, __file__, "--bare", str(jobs), "--workers", str(options.workers)]
        files = sum(work.count for work in works)
        print(f"{files} renditions of {len(works)} masters, {options.workers} workers")
        ratios = []
        for run in range(options.runs):
            a, b = seconds(ours, plan.output), seconds(floor, plan.output)
            ratios.append(a / b)
            print(f"run {run + 1}: sarvel render {a:6.2f} s   floor {b:6.2f} s   a/b {a / b:.3f}")
        print(f"median a/b {statistics.median(ratios):.3f}")


if __name__ == "__main__":
    main()
