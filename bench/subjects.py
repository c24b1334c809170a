"""How much of a subject crops keep that go by a guess: on photographs that nobody here made, labelled by eye.

    python bench/subjects.py FOLDER [--aside]

labelled_photographs.py says where they are from. `--aside` scores those that are kept aside, which no number was fitted to.

Printed are, for crops of 1:1, 4:5, 21:9 and 9:16: the share of the labelled part that is kept by a centred crop, by the guess and
at best; needless losses, crops that keep less than 95 % of what they could keep; how sure guesses are against how many are
right; and the seconds that finding takes.
"""

from __future__ import annotations

import argparse
import time
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import numpy as np
from labelled_photographs import labelled
from numpy.typing import NDArray
from PIL import Image

from sarvel.core.crop.place import WHOLE, Box, kept, place
from sarvel.core.facts import FoundSubject
from sarvel.core.pixels.subject import find_subject

RATIOS = (1.0, 4 / 5, 21 / 9, 9 / 16)
RIGHT = 0.95
SIDE = 1600  # px of the longer side that photographs are brought to; larger ones change no guess


class Photograph(NamedTuple):
    """A photograph: its width and height, its guess, its label, and the seconds that finding took."""

    size: tuple[int, int]
    found: FoundSubject
    label: Box
    seconds: float


def main() -> None:
    """Fetches, scores and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--aside", action="store_true")
    options = parser.parse_args()
    photographs = [looked_at(file, box) for file, box in labelled(options.folder, aside=options.aside)]
    print(f"{len(photographs)} photographs")
    tell("a centred crop", photographs, lambda _: (WHOLE,))
    tell("the guess", photographs, lambda one: one.found.subjects or (WHOLE,))
    tell("at best", photographs, lambda one: (one.label,))
    tell_sure(photographs)
    print(f"finding takes {np.median([one.seconds for one in photographs]):.2f} s")


def opened(file: Path) -> tuple[NDArray[np.uint8], tuple[int, int]]:
    """The pixels of a photograph, at most SIDE px long, and its own width and height."""
    with Image.open(file) as image:
        image.draft("RGB", (SIDE, SIDE))
        size = image.size
        small = image.convert("RGB")
    small.thumbnail((SIDE, SIDE))
    return np.asarray(small), size


def looked_at(file: Path, label: Box) -> Photograph:
    """A photograph with its guess."""
    pixels, size = opened(file)
    started = time.perf_counter()
    found = find_subject(pixels)
    return Photograph(size, found, label, time.perf_counter() - started)


def shares(size: tuple[int, int], label: Box, subjects: tuple[Box, ...]) -> list[tuple[float, float]]:
    """What each crop keeps of the label, and what it could keep."""
    label = label.times(*size)
    result = []
    for ratio in RATIOS:
        crop = place(*size, ratio, subjects)
        best = min(1.0, crop.width / label.width) * min(1.0, crop.height / label.height)
        result.append((kept(crop, label), best))
    return result


def tell(name: str, photographs: list[Photograph], subjects: Callable[[Photograph], tuple[Box, ...]]) -> None:
    """Prints what is kept, and how many losses are needless."""
    rows = np.array([shares(one.size, one.label, subjects(one)) for one in photographs])
    needless = (rows[..., 0] < RIGHT * rows[..., 1]).mean()
    print(f"{name:14} keeps {rows[..., 0].mean():.3f} of {rows[..., 1].mean():.3f}, needless losses {needless:.1%}")


def tell_sure(photographs: list[Photograph]) -> None:
    """Prints how many crops of guesses of some sureness are right."""
    for low, high in ((0.0, 0.5), (0.5, 0.7), (0.7, 0.8), (0.8, 1.01)):
        some = [one for one in photographs if low <= one.found.sure < high]
        right = [
            got >= RIGHT * best
            for one in some
            for got, best in shares(one.size, one.label, one.found.subjects or (WHOLE,))
        ]
        if some:
            mean = np.mean([one.found.sure for one in some])
            print(
                f"{len(some)} guesses {low:.0%} to {high:.0%} sure, {mean:.0%} on average: {np.mean(right):.0%} of crops right"
            )


if __name__ == "__main__":
    main()
