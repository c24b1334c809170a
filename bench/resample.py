"""The resampler alone: every rung of one 4800×3200 master, against Pillow's own resize.

    python bench/resample.py [--runs N]

(a) turns the master into linear light once and reduces it to every rung with Lanczos-3, in light, as stored pixels. (b) is
Pillow's `resize` of each rung from the stored master, Lanczos, without linear light. One core each, in turn.
"""

from __future__ import annotations

import argparse
import os
import statistics
import time
from collections.abc import Callable

os.environ["OPENBLAS_NUM_THREADS"] = "1"  # before NumPy is loaded

from PIL import Image

from sarvel.core.crop.place import Box
from sarvel.core.pixels.resample import pixels_from_light
from sarvel.demo import SITE
from sarvel.encode.decode import Decoded, read_pixels

WIDTHS = (640, 960, 1280, 1600, 1920, 2560)


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=5)
    pixels = read_pixels(SITE / "masters" / "lamp-at-dusk.jpg", "lamp-at-dusk.jpg")
    height, width = pixels.shape[:2]
    image = Image.fromarray(pixels)

    def ours() -> None:
        reduce = Decoded.of(pixels).reducer("", mirror=False)
        for to in WIDTHS:
            pixels_from_light(reduce(Box(0, 0, width, height), to, round(to * height / width)))

    def theirs() -> None:
        for to in WIDTHS:
            image.resize((to, round(to * height / width)), Image.Resampling.LANCZOS)

    ratios = []
    for run in range(parser.parse_args().runs):
        a, b = seconds(ours), seconds(theirs)
        ratios.append(a / b)
        print(f"run {run + 1}: in light {a:.3f} s   Pillow {b:.3f} s   a/b {a / b:.3f}")
    print(f"{len(WIDTHS)} rungs of {width}×{height}: median a/b {statistics.median(ratios):.3f}")


def seconds(work: Callable[[], None]) -> float:
    """How long it takes."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


if __name__ == "__main__":
    main()
