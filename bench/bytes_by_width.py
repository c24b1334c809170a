"""How the bytes of a picture grow with its width, at one likeness: the exponent g of b(w) = w^g, by format and kind.

    python bench/bytes_by_width.py FOLDER [--least PX] [--most PX]

Every image of the folder is reduced to widths from 320 px up, each √2 times the one before, and encoded so that all look as
alike to what they were made from: photographs by the search for encoder numbers at the standard finish, flat graphics by
what Sarvel writes of them. The line fitted to the logarithms of width and bytes has the slope g. Printed are g for each image,
then the quartiles for each format and kind, and the bits that a pixel takes at 800 px. `sarvel.core.layout.growth` holds the
medians that came out for photographs of nature, people and things, and for drawings, none of them the project's own.
"""

from __future__ import annotations

import argparse
import statistics
from collections import defaultdict
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import NamedTuple

import numpy as np
from PIL import Image

from sarvel.core.crop.place import Box
from sarvel.core.edition.rendition import CLEAN
from sarvel.core.model import FINISHES
from sarvel.core.pixels.drawn import looks_drawn
from sarvel.core.pixels.likeness import Reference
from sarvel.core.pixels.resample import pixels_from_light
from sarvel.encode.codecs import CODECS, EncoderSettings
from sarvel.encode.decode import Decoded
from sarvel.encode.quality_search import find_quality

PHOTOGRAPHS, DRAWINGS = ("avif", "webp", "jpeg"), ("avif", "webp", "png")


class Growth(NamedTuple):
    """The growth of one picture in one format: g, and bits a pixel at 800 px."""

    name: str
    drawn: bool
    format: str
    exponent: float
    bits: float


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--least", type=int, default=320)
    parser.add_argument("--most", type=int, default=2560)
    options = parser.parse_args()
    files = sorted(file for file in options.folder.iterdir() if file.is_file())
    rows: dict[tuple[bool, str], list[Growth]] = defaultdict(list)
    with ProcessPoolExecutor() as pool:
        jobs = [pool.submit(measure, file, options.least, options.most) for file in files]
        for job in jobs:
            for row in job.result():
                print(
                    f"{row.name:30} {'drawn' if row.drawn else 'photo'} {row.format:5} {row.exponent:.2f} {row.bits:.2f}",
                    flush=True,
                )
                rows[row.drawn, row.format].append(row)
    print("\n| kind | format | images | lower quartile | median g | upper quartile | bits a pixel at 800 px |")
    print("|:--|:--|---:|---:|---:|---:|---:|")
    for (drawn, name), some in sorted(rows.items()):
        low, middle, high = np.quantile([row.exponent for row in some], [0.25, 0.5, 0.75])
        bits = statistics.median(row.bits for row in some)
        kind = "flat graphics" if drawn else "photographs"
        print(f"| {kind} | {name} | {len(some)} | {low:.2f} | {middle:.2f} | {high:.2f} | {bits:.2f} |")


def measure(file: Path, least: int, most: int) -> list[Growth]:
    """The growth of one picture in each format of its kind."""
    with Image.open(file) as image:
        image.draft("RGB", (most, most))
        pixels = np.asarray(image.convert("RGB"))
    drawn, (height, width) = looks_drawn(pixels), pixels.shape[:2]
    widths = [round(least * 2 ** (i / 2)) for i in range(20) if least * 2 ** (i / 2) <= min(most, width) + 1]
    reduce = Decoded.of(pixels).reducer("", mirror=False)
    rungs = [
        pixels_from_light(reduce(Box(0, 0, width, height), one, max(1, round(one * height / width)))) for one in widths
    ]
    found = []
    for name in DRAWINGS if drawn else PHOTOGRAPHS:
        sizes = [encoded(rung, name, drawn=drawn) for rung in rungs]
        slope, _ = np.polyfit(np.log(widths), np.log(sizes), 1)
        at = min(range(len(widths)), key=lambda i: abs(widths[i] - 800))
        bits = sizes[at] * 8 / (rungs[at].shape[0] * rungs[at].shape[1])
        found.append(Growth(file.stem[:30], drawn, name, float(slope), bits))
    return found


def encoded(pixels: np.ndarray, name: str, *, drawn: bool) -> int:
    """The bytes of a picture as Sarvel writes it."""
    codec = CODECS[name]
    if codec.lossless is not None and (drawn or codec.lossy is None):
        return len(codec.encode(pixels, EncoderSettings(None, drawn=drawn)))
    likeness = CLEAN if drawn else FINISHES["standard"]
    return len(find_quality(pixels, Reference(pixels), codec, likeness, drawn=drawn, close=0.2).content)


if __name__ == "__main__":
    main()
