"""What the search for encoder settings comes to, against fixed middling settings.

    python bench/finish.py

Every crop of the demo's photographs is made at `standard`: each format tuned on the crop's middle rung. Of every file the
likeness to its rung is measured, and set beside the same rung encoded with the numbers that people commonly leave as they
are: AVIF 60, WebP 80, JPEG 82. Printed are, for each crop and format: the number found, the likeness on the searched rung,
the least and greatest on all rungs, and the bytes; then the same for the fixed numbers; then sums.
"""

from __future__ import annotations

import io
import tempfile
from collections import defaultdict
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image

from sarvel.core.edition.rendition import Rendition
from sarvel.core.pixels.likeness import Reference
from sarvel.demo import copy_site
from sarvel.encode.codecs import CODECS, EncoderSettings
from sarvel.encode.crop_encoder import CropEncoder
from sarvel.encode.decode import decode
from sarvel.files.ledger import Ledger
from sarvel.files.output_folder import OutputFolder
from sarvel.pipeline.site import read_site
from sarvel.pipeline.todo import work_to_do
from sarvel.plan.read import read_plan

FIXED = {"avif": 60, "webp": 80, "jpeg": 82}


@dataclass(frozen=True)
class Measured:
    """A file: whether it is of the rung that was searched, its likeness, its bytes; and both with the fixed number."""

    searched: bool
    likeness: float
    size: int
    fixed_likeness: float
    fixed_size: int


def main() -> None:
    """Measures and prints."""
    measured: dict[tuple[str, str, str], list[Measured]] = {}
    with tempfile.TemporaryDirectory() as folder:
        copy_site(Path(folder, "site"))
        plan = read_plan(Path(folder, "site", "sarvel.toml"))
        ledger = Ledger()
        works = work_to_do(
            read_site(plan, ledger).edition, plan.masters_folder.joinpath, OutputFolder(plan.output), ledger
        ).works
        print(f"{'master':24} {'crop':>12} {'format':6} {'no.':>8} {'searched':>8} {'others':>15} {'kB':>7}   fixed")
        for work in works:
            if not work.key.endswith(".jpg"):
                continue
            master = decode(work.file, work.key, "srgb")
            for crop in work.crops:
                bench = CropEncoder(crop, master)
                for name in FIXED:
                    files = [one for one in crop.renditions if one.format == name]
                    bench.search(files[0])
                    shape = f"{crop.box.width:.0f}×{crop.box.height:.0f}"
                    measured[work.key, shape, name] = rows = [measure(bench, one) for one in files]
                    tell(work.key, shape, name, rows, numbers_of(bench, files[0]))
    tell_sums(measured)


def numbers_of(bench: CropEncoder, rendition: Rendition) -> str:
    """What was found: on the middle rung, and the least and the greatest."""
    found = bench.numbers(rendition)
    if found is None:
        return ""
    numbers = [number for _, number, _ in found.points]
    return f"{numbers[-1]} {min(numbers)}–{max(numbers)}"


def measure(bench: CropEncoder, rendition: Rendition) -> Measured:
    """One file, tuned and fixed."""
    codec = CODECS[rendition.format]
    pixels = bench.pixels(rendition.size, codec)
    reference = Reference(pixels)
    contents = bench.encode(rendition), codec.encode(pixels, EncoderSettings(FIXED[rendition.format]))
    alike = [reference.likeness(np.asarray(Image.open(io.BytesIO(content)).convert("RGB"))) for content in contents]
    search = rendition.encoding.search
    searched = search is not None and search.sizes[-1] == rendition.size
    return Measured(searched, alike[0], len(contents[0]), alike[1], len(contents[1]))


def tell(key: str, shape: str, name: str, rows: list[Measured], numbers: str) -> None:
    """A line of the table."""
    searched = next((row.likeness for row in rows if row.searched), float("nan"))
    likenesses = [row.likeness for row in rows]
    fixed = [row.fixed_likeness for row in rows]
    print(
        f"{key:24} {shape:>12} {name:6} {numbers:>8} {searched:8.2f} {min(likenesses):7.2f} {max(likenesses):7.2f} "
        f"{sum(row.size for row in rows) / 1000:7.0f}   {FIXED[name]} {min(fixed):7.2f} {max(fixed):7.2f} "
        f"{sum(row.fixed_size for row in rows) / 1000:7.0f}"
    )


def tell_sums(measured: dict[tuple[str, str, str], list[Measured]]) -> None:
    """Sums by master and format, and over all."""
    sums: dict[tuple[str, str], int] = defaultdict(int)
    for (key, _, name), rows in measured.items():
        sums[key, name] += sum(row.size for row in rows)
    for key in dict.fromkeys(key for key, _, _ in measured):
        print(f"{key:24} " + " < ".join(f"{name} {sums[key, name] / 1000:.0f} kB" for name in FIXED))
    rows = [row for some in measured.values() for row in some]
    ours, fixed = sum(row.size for row in rows), sum(row.fixed_size for row in rows)
    print(f"all: {ours / 1e6:.2f} MB tuned, {fixed / 1e6:.2f} MB fixed: {1 - ours / fixed:.1%} less")
    print(
        f"lowest likeness: {min(row.likeness for row in rows):.2f} tuned, {min(row.fixed_likeness for row in rows):.2f} fixed"
    )


if __name__ == "__main__":
    main()
