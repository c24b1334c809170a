"""What encoders gain by trying longer: time and bytes at equal likeness, by setting, and the settings of each effort.

    python bench/effort.py [FOLDER] [--width PX]

The photographs of the folder (the demo's own masters without one) are reduced to 900 px and encoded with every setting of an
encoder, each at the number that reaches the standard finish. Bytes are brought to exactly the same likeness by the slope
that the search found. Printed are time and bytes as ratios to the setting of normal effort, all within one run: the
geometric means over the photographs. A setting is on the front if none is as fast and smaller.
"""

from __future__ import annotations

import argparse
import tempfile
import time
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from sarvel.core.crop.place import Box
from sarvel.core.model import FINISHES
from sarvel.core.pixels.drawn import looks_drawn
from sarvel.core.pixels.likeness import Reference
from sarvel.core.pixels.resample import Pixels, pixels_from_light
from sarvel.demo import copy_site
from sarvel.encode.codecs import CODECS, Codec, EncoderSettings
from sarvel.encode.decode import Decoded
from sarvel.encode.quality_search import find_quality

SETTINGS: Mapping[str, tuple[str, tuple[int, ...]]] = {
    "avif": ("speed", (3, 4, 5, 6, 7, 8, 9)),
    "webp": ("method", (2, 3, 4, 5, 6)),
    "jxl": ("effort", (3, 5, 6, 7, 8, 9)),
}
TARGET = FINISHES["standard"]


def main() -> None:
    """Measures and prints."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=Path, nargs="?")
    parser.add_argument("--width", type=int, default=900)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        copy_site(Path(folder, "site"))
        pictures = rungs(options.folder or Path(folder, "site", "masters"), options.width)
    print(f"{len(pictures)} photographs, {options.width} px wide\n")
    print("| format | setting | effort | time | bytes | on the front |")
    print("|:--|:--|:--|---:|---:|:--|")
    for name, (option, values) in SETTINGS.items():
        if name in CODECS:
            tell(CODECS[name], option, {value: measured(CODECS[name], option, value, pictures) for value in values})


def tell(codec: Codec, option: str, found: Mapping[int, np.ndarray]) -> None:
    """Prints the rows of one format; `found` has time and bytes of each picture, shape (pictures, 2)."""
    efforts = {options[option]: effort for effort, options in codec.efforts.items()}
    normal = next(value for value, effort in efforts.items() if effort == "normal")
    ratios = {value: np.exp(np.log(rows / found[normal]).mean(axis=0)) for value, rows in found.items()}
    for value, (seconds, size) in ratios.items():
        is_beaten = any(other[0] <= seconds and other[1] < size for other in ratios.values())
        front = "" if is_beaten else "yes"
        print(f"| {codec.name} | {option} {value} | {efforts.get(value, '')} | {seconds:.2f} | {size:.3f} | {front} |")


def measured(codec: Codec, option: str, value: int, pictures: list[tuple[Pixels, Reference]]) -> np.ndarray:
    """Seconds and bytes of each picture at the target likeness, shape (pictures, 2)."""
    tried = replace(codec, efforts={"normal": {option: value}})
    rows = []
    for pixels, reference in pictures:
        found = find_quality(pixels, reference, tried, TARGET, drawn=False, close=0.15)
        seconds = min(timed(tried, pixels, found.quality) for _ in range(2))
        near = tried.encode(pixels, EncoderSettings(found.quality + 2))
        alike = reference.likeness(decoded(near))
        slope = np.log(len(near) / len(found.content)) / max(0.05, alike - found.likeness)
        rows.append((seconds, len(found.content) * np.exp(slope * (TARGET - found.likeness))))
    return np.array(rows)


def timed(codec: Codec, pixels: Pixels, quality: int) -> float:
    """Seconds of processor that one encode takes."""
    started = time.process_time()
    codec.encode(pixels, EncoderSettings(quality))
    return time.process_time() - started


def decoded(content: bytes) -> Pixels:
    """The pixels of a file."""
    import io

    with Image.open(io.BytesIO(content)) as image:
        return np.asarray(image.convert("RGB"))


def rungs(folder: Path, width: int) -> list[tuple[Pixels, Reference]]:
    """The photographs of a folder at one width."""
    found = []
    for file in sorted(folder.iterdir()):
        with Image.open(file) as image:
            image.draft("RGB", (2 * width, 2 * width))
            pixels: Any = np.asarray(image.convert("RGB"))
        if not looks_drawn(pixels):
            height = pixels.shape[0] * width / pixels.shape[1]
            reduce = Decoded.of(pixels).reducer("", mirror=False)
            rung = pixels_from_light(reduce(Box(0, 0, pixels.shape[1], pixels.shape[0]), width, round(height)))
            found.append((rung, Reference(rung)))
    return found


if __name__ == "__main__":
    main()
