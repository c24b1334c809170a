"""How near `sarvel render` comes to the floor that the encoders set.

    python bench/floor.py [--workers N] [--runs N]

(a) is `sarvel render` on the demo site, from nothing. (b) is a bare loop on as many processes: it decodes each master once
and makes the same encodes with the same settings from pixels that are ready. (c) is that loop when it has to make the
pixels, too, by the image library's own Lanczos filter on the stored bytes, which is not the light that they stand for. All
run in turn, each as a whole process; printed are the seconds of each and the ratios a/b and a/c, run by run. Encoder numbers
are fixed in all; what finding them adds is measured by bench/search.py.
"""

from __future__ import annotations

import argparse
import pickle
import re
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
from sarvel.encode.codecs import CODECS, EncoderSettings
from sarvel.encode.decode import decode
from sarvel.encode.rungs import rung
from sarvel.encode.work import MasterWork
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_rows import FILE_NAME
from sarvel.files.output_folder import OutputFolder
from sarvel.pipeline.site import read_site
from sarvel.pipeline.todo import work_to_do
from sarvel.plan.read import read_plan
from sarvel.workers.cores import available_workers

BY_HAND = "{ avif = 60, webp = 80, jpeg = 82 }"  # fixed, so that no time goes into finding numbers

Ready = dict[tuple[int, tuple[int, int]], Path]  # crop and size to the file of its pixels


def prepare(work: MasterWork, folder: Path) -> Ready:
    """Makes the pixels of every rung of one master, so that the bare loop need not."""
    ready: Ready = {}
    master = decode(work.file, work.key, "srgb")
    for i, crop in enumerate(work.crops):
        for size in crop.sizes():
            ready[i, size] = folder / f"{work.key}-{i}-{size[0]}.npy"
            np.save(ready[i, size], pixels_from_light(rung(master, crop, size)))
    return ready


def bare(work: MasterWork, ready: Ready, resized: bool) -> None:
    """The floor of one master: one decode, and the encodes; with `resized`, the library's resizing, too."""
    assert isinstance(work.file, Path)
    with Image.open(work.file) as opened:
        image = opened.convert("RGBA" if opened.has_transparency_data else "RGB")
    for i, crop in enumerate(work.crops):
        box = (crop.box.left, crop.box.top, crop.box.right, crop.box.bottom)
        for size in crop.sizes():
            pixels = (
                np.asarray(image.resize(size, Image.Resampling.LANCZOS, box)) if resized else np.load(ready[i, size])
            )
            for rendition in crop.renditions:
                if rendition.size == size:
                    settings = EncoderSettings(rendition.encoding.quality, rendition.encoding.drawn)
                    content = CODECS[rendition.format].encode(pixels, settings)
                    (work.output / rendition.name).write_bytes(content)


def bare_loop(jobs: Path, workers: int, *, resized: bool) -> None:
    """(b) or (c), in a process of its own."""
    works: list[tuple[MasterWork, Ready]] = pickle.loads(jobs.read_bytes())  # noqa: S301 - written by ourselves above
    works[0][0].output.mkdir(parents=True)
    with ProcessPoolExecutor(workers, mp_context=get_context("spawn")) as pool:
        for task in [pool.submit(bare, *job, resized) for job in works]:
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
    parser.add_argument("--resized", action="store_true", help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.bare:
        bare_loop(options.bare, options.workers, resized=options.resized)
        return
    with tempfile.TemporaryDirectory() as folder:
        site, jobs = Path(folder, "site"), Path(folder, "jobs")
        copy_site(site)
        said = site / "sarvel.toml"
        said.write_text(re.sub(r"(?m)^quality += .*", f"quality = {BY_HAND}", said.read_text()))
        plan = read_plan(said)
        works = work_to_do(
            read_site(plan, Ledger()).edition, plan.masters_folder.joinpath, OutputFolder(plan.output), Ledger()
        ).works
        jobs.write_bytes(pickle.dumps([(work, prepare(work, Path(folder))) for work in works]))
        ours = [sys.executable, "-m", "sarvel", "render", "--plan", str(plan.file), "--workers", str(options.workers)]
        floor = [sys.executable, __file__, "--bare", str(jobs), "--workers", str(options.workers)]
        files = sum(work.count for work in works)
        print(f"{files} renditions of {len(works)} masters, {options.workers} workers")
        ratios = []
        for run in range(options.runs):
            a, b, c = (seconds(command, plan.output) for command in (ours, floor, [*floor, "--resized"]))
            ratios.append((a / b, a / c))
            print(
                f"run {run + 1}: render {a:.2f} s   encodes {b:.2f} s, a/b {a / b:.3f}   resized {c:.2f} s, a/c {a / c:.3f}"
            )
        print(
            "median: a/b {:.3f}, a/c {:.3f}".format(
                *(statistics.median(column) for column in zip(*ratios, strict=True))
            )
        )


if __name__ == "__main__":
    main()
