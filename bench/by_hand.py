"""`sarvel render` of the demo, from nothing, against the script that a developer would write with Pillow.

    python bench/by_hand.py [--runs N]

(b) opens the master, crops, resizes and saves for each rendition; (c) opens each master once. Both are one process, make
the same files at the same sizes with the same encoder numbers, and resize without linear light. (a) is `sarvel render` with
as many workers as there are cores.
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
from pathlib import Path

from PIL import Image

from sarvel.demo import copy_site
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_rows import FILE_NAME
from sarvel.files.output_folder import OutputFolder
from sarvel.pipeline.site import read_site
from sarvel.pipeline.todo import work_to_do
from sarvel.plan.read import read_plan

BY_HAND = "{ avif = 60, webp = 80, jpeg = 82 }"

Job = tuple[str, tuple[float, ...], tuple[int, int], str, str]  # master, box, size, format, file


def script(jobs: list[Job], *, once: bool) -> None:
    """What a developer would write."""
    numbers = {"avif": 60, "webp": 80, "jpeg": 82}
    opened: dict[str, Image.Image] = {}
    for master, box, size, name, file in jobs:
        if not once or master not in opened:
            opened = {master: Image.open(master)}
            opened[master].load()
        resized = opened[master].crop(tuple(round(edge) for edge in box)).resize(size, Image.Resampling.LANCZOS)  # type: ignore[arg-type]
        if name in numbers:
            resized.save(file, name, quality=numbers[name])
        else:
            resized.save(file, name)


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=2)
    parser.add_argument("--script", nargs=2, help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.script:
        told = pickle.loads(Path(options.script[1]).read_bytes())  # noqa: S301 - written by ourselves below
        script(told, once=options.script[0] == "once")
        return
    with tempfile.TemporaryDirectory() as folder:
        site = Path(folder, "site")
        copy_site(site)
        said = site / "sarvel.toml"
        said.write_text(said.read_text().replace("[defaults]", f"[defaults]\nquality = {BY_HAND}"))
        plan = read_plan(said)
        works = work_to_do(
            read_site(plan, Ledger()).edition, plan.masters_folder.joinpath, OutputFolder(plan.output), Ledger()
        ).works
        jobs: list[Job] = [
            (
                str(work.file),
                (crop.box.left, crop.box.top, crop.box.right, crop.box.bottom),
                one.size,
                one.format,
                str(plan.output / one.name),
            )
            for work in works
            for crop in work.crops
            for one in crop.renditions
        ]
        Path(folder, "jobs").write_bytes(pickle.dumps(jobs))
        ours = [sys.executable, "-m", "sarvel", "render", "--quiet", "--plan", str(said)]
        ratios: dict[str, list[float]] = {"each": [], "once": []}
        for run in range(options.runs):
            a = seconds(ours, plan.output, site)
            for how, found in ratios.items():
                b = seconds([sys.executable, __file__, "--script", how, str(Path(folder, "jobs"))], plan.output, site)
                found.append(a / b)
                print(f"run {run + 1}: sarvel render {a:6.2f} s   opening {how} {b:6.2f} s   ratio {a / b:.3f}")
        for how, found in ratios.items():
            print(f"opening {how}: median {statistics.median(found):.3f}")


def seconds(command: list[str], output: Path, site: Path) -> float:
    """How long a command takes that fills the output folder, which is emptied before; there is no ledger then."""
    shutil.rmtree(output, ignore_errors=True)
    output.mkdir(parents=True)
    (site / FILE_NAME).unlink(missing_ok=True)
    start = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
