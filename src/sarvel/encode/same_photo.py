"""Whether two files show the same photograph, in any size and format."""

from __future__ import annotations

from pathlib import Path
from typing import TypeAlias

from PIL import Image, ImageChops, ImageOps, ImageStat

from sarvel.encode.image_headers import opened_quietly

_SIDE = 24  # px of the small copies that are compared: enough to tell two photographs of a series
# On the demo's masters a JPEG of quality 20 to 30 differs by 4 at most, at the worst px by 21. A crop that leaves out 4 % at one
# side differs by 6 at least, at the worst px by 39.
_DIFFER = 4.5  # levels of 255, root mean square
_WORST = 30  # levels, at any px
_PLAIN = 4.0  # levels, standard deviation: areas of one color are all the same

Glance: TypeAlias = Image.Image
"""A small grey copy."""


def glance(file: Path) -> Glance | None:
    """A small copy of a file to compare; None if it cannot be read, or shows one color."""
    try:
        with opened_quietly(file) as image:
            image.draft("L", (_SIDE * 4, _SIDE * 4))
            upright = ImageOps.exif_transpose(image).convert("RGBA" if image.has_transparency_data else "RGB")
            small = upright.convert("L").resize((_SIDE, _SIDE), Image.Resampling.BOX)
    except Exception:  # noqa: BLE001 - decoders raise anything for damaged files
        return None
    return small if ImageStat.Stat(small).stddev[0] >= _PLAIN else None


def same_photo(one: Glance, other: Glance) -> bool:
    """Tells whether two small copies are of one photograph of one shape."""
    differences = ImageStat.Stat(ImageChops.difference(one, other))
    return differences.rms[0] < _DIFFER and differences.extrema[0][1] < _WORST
