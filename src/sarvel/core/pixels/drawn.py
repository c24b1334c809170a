"""Telling flat graphics (drawn: a chart, a logo, a screen) from photographs.

A pixel is plain if it has exactly the color of the pixel next to it and of the one below. In a photograph few are, because
of noise and shading; in flat graphics most are, edges aside. The commonest color is left out, so that the white around a
photographed object does not count as flat. If that color is a ground that fills half the picture, thin strokes on it
counts as plain too: lettering and lines are little but edges.
"""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from sarvel.core.pixels.resample import Pixels

# Measured on the demo: flat graphics 0.68 and 0.93, photographic masters and their reduced or grey copies 0.07 to 0.22.
MOSTLY_PLAIN = 0.4

_GROUND = 0.5  # share of the picture from which the commonest color is a ground
_THIN = 3  # px from the ground to the middle of a stroke

_ENOUGH, _BAND = 2_000_000, 32  # px that are looked at, and rows of each band of them


def plain_share(pixels: Pixels) -> float:
    """The share of plain pixels among those not of the commonest color, 0 to 1; 1 for a single color.

    Args:
        pixels: (height, width, 3), or 4 with straight alpha; fully transparent pixels count as one color.
    """
    codes = pixels[..., :3].astype(np.uint32) @ np.array([65536, 256, 1], np.uint32)
    if pixels.shape[2] == 4:
        codes = np.where(pixels[..., 3] > 0, codes | pixels[..., 3].astype(np.uint32) << 24, np.uint32(0))
    if min(codes.shape) < 2:
        return 1.0
    colors, counts = np.unique(codes, return_counts=True)
    inner = codes[:-1, :-1]
    plain = (inner == codes[:-1, 1:]) & (inner == codes[1:, :-1])
    others = inner != colors[counts.argmax()]
    if counts.max() >= _GROUND * codes.size:
        plain |= ndimage.binary_dilation(~others, iterations=_THIN)
    return float(plain[others].mean()) if others.any() else 1.0


def looks_drawn(pixels: Pixels) -> bool:
    """Tells whether these rows of a picture are flat graphics: their plain share is at least MOSTLY_PLAIN."""
    return plain_share(pixels) >= MOSTLY_PLAIN


def rows_to_look_at(width: int, height: int) -> list[tuple[int, int]]:
    """Bands of rows that tell enough about a picture of this size, px, each from a row up to another; all of a small one."""
    bands = max(1, _ENOUGH // (_BAND * width))
    if height <= bands * _BAND:
        return [(0, height)]
    return [(int(first), int(first) + _BAND) for first in np.linspace(0, height - _BAND, bands)]
