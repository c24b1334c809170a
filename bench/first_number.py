"""The number that the search for an encoder's number begins with: what its formula is worth on photographs that nobody here made.

    python bench/first_number.py FOLDER [--fit]

FOLDER is where photographs are fetched to (bench/labelled_photographs.py). Each is reduced to 320 px and encoded at many
numbers in each format. Printed are, on the photographs that are kept aside, the share of first tries that end the search (they
come as close as CLOSE), by likeness; with --fit also the formula's numbers, fitted on the others by least absolute distance. The
demo's photographs weigh as much there as all others, for masters are cleaner than what websites and packages compressed before.
"""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from dataclasses import dataclass
from multiprocessing import Pool
from pathlib import Path

import numpy as np
from labelled_photographs import labelled
from numpy.typing import NDArray
from PIL import Image

from sarvel.core.pixels.likeness import Reference
from sarvel.demo import SITE
from sarvel.encode.codecs import CODECS, EncoderSettings
from sarvel.encode.codecs.typical import USUAL, Texture
from sarvel.encode.quality_search import CLOSE, decoded

_WIDTH = 320
_NUMBERS = range(20, 97, 8)
_TARGETS = (88.0, 91.0, 92.0, 93.0, 94.0, 95.0, 96.0)


@dataclass(frozen=True)
class Tried:
    """A photograph: its texture, and what each format reached with each number."""

    texture: Texture
    reached: dict[str, list[float]]

    def number(self, format_: str, likeness: float) -> float:
        """The number that it needs; NaN where none of those tried lies around it."""
        rising = np.maximum.accumulate(self.reached[format_]) + np.arange(len(_NUMBERS)) * 1e-9
        return float(np.interp(likeness, rising, list(_NUMBERS), left=np.nan, right=np.nan))

    def at(self, format_: str, number: float) -> float:
        """The likeness that a number comes to."""
        return float(np.interp(number, list(_NUMBERS), self.reached[format_]))


def main() -> None:
    """Measures, fits and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--fit", action="store_true")
    options = parser.parse_args()
    with Pool() as pool:
        aside, others = (
            pool.map(tried, [file for file, _ in labelled(options.folder, aside=one)]) for one in (True, False)
        )
        demo = pool.map(tried, sorted((SITE / "masters").rglob("*.jpg")))
    print(f"usual texture: {np.round(np.mean([one.texture for one in others], axis=0), 2)}")
    for format_ in formats():
        if options.fit:
            print(format_, np.round(fitted(format_, others, demo), 2))
        print(format_, *(f"{target:g}: {hits(format_, target, aside):.2f}" for target in _TARGETS))


def formats() -> Iterator[str]:
    """Formats whose numbers are searched for."""
    return (name for name, codec in CODECS.items() if codec.lossy is not None)


def tried(file: Path) -> Tried:
    """Encodes a photograph at many numbers."""
    with Image.open(file) as image:
        height = max(1, round(_WIDTH * image.height / image.width))
        pixels = np.asarray(image.convert("RGB").resize((_WIDTH, height), Image.Resampling.LANCZOS))
    reference = Reference(pixels)
    return Tried(
        reference.texture(),
        {
            name: [
                reference.likeness(decoded(CODECS[name].encode(pixels, EncoderSettings(number)), 3))
                for number in _NUMBERS
            ]
            for name in formats()
        },
    )


def fitted(format_: str, some: list[Tried], heavy: list[Tried]) -> NDArray[np.float64]:
    """The number, the power, and the three of texture: the least sum of distances, by weighted least squares again and again."""
    cases = [(one, target, one.number(format_, target)) for one in [*some, *heavy] for target in _TARGETS]
    cases = [case for case in cases if not np.isnan(case[2])]
    shares = np.array([len(some) / len(heavy) if one in heavy else 1.0 for one, *_ in cases]) ** 0.5
    rows = np.array([_row(one.texture, target) for one, target, _ in cases])
    wanted = np.array([number for _, _, number in cases])
    weights = shares
    for _ in range(30):
        found, *_ = np.linalg.lstsq(rows * weights[:, None], np.log(100 - wanted) * weights, rcond=None)
        lacks = np.exp(rows @ found)
        weights = shares * lacks / np.sqrt(np.maximum(np.abs(100 - lacks - wanted), 1))
    return np.array([100 - np.exp(found[0]), *found[1:]])


def _row(texture: Texture, likeness: float) -> list[float]:
    return [1, float(np.log((100 - likeness) / 7)), *(mine - usual for mine, usual in zip(texture, USUAL, strict=True))]


def hits(format_: str, target: float, some: list[Tried]) -> float:
    """The share of photographs whose first try ends the search, of those that can reach the target."""
    able = [one for one in some if not np.isnan(one.number(format_, target))]
    first = [(one, CODECS[format_].expected(target, one.texture)) for one in able]
    return float(np.mean([abs(one.at(format_, number) - target) <= CLOSE for one, number in first]))


if __name__ == "__main__":
    main()
