"""Treatments of a crop, made in its light: docs/inside.md, "Treatments".

They are always applied in this order: rotate, mirror (both as a master is read), crop or pad,
background, grey.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from sarvel.core.crop.place import Box
from sarvel.core.pixels.gamut import DISPLAY_P3, SRGB, WIDE_FROM_SRGB, xyz_of_primaries
from sarvel.core.pixels.light import linear_from_srgb
from sarvel.core.pixels.resample import Light

Reduce: TypeAlias = Callable[[Box, int, int], Light]

# What share of the light of a grey each primary gives: the rows of Y of their matrices to XYZ.
_LUMINANCE = xyz_of_primaries(SRGB)[1].astype(np.float32)
_LUMINANCE_WIDE = xyz_of_primaries(DISPLAY_P3)[1].astype(np.float32)


def light_of_color(color: str, *, wide: bool = False) -> NDArray[np.float32]:
    """Linear light, shape (3,), in sRGB or in Display P3, of a color written "#rrggbb"."""
    light = linear_from_srgb(np.array([int(color[i : i + 2], 16) for i in (1, 3, 5)]) / 255)
    return (WIDE_FROM_SRGB @ light if wide else light).astype(np.float32)


def pad_out(reduce: Reduce, box: Box, width: int, height: int, color: NDArray[np.float32]) -> Light:
    """A picture at a size within a larger rectangle, the rest of one color.

    Args:
        reduce: makes a box of the picture at a size.
        box: the rectangle, px of the picture, beyond its edges on two sides or on none; all of the picture is shown.
        width: of the result, px.
        height: of the result, px.
        color: linear light of the rest, shape (3,).
    """
    left, top = round(-box.left / box.width * width), round(-box.top / box.height * height)
    inner_width, inner_height = max(1, width - 2 * left), max(1, height - 2 * top)
    inner = reduce(Box(0, 0, box.left + box.right, box.top + box.bottom), inner_width, inner_height)
    result: Light = np.ones((len(inner), height, width), np.float32)
    result[:3] = color[:, None, None]
    result[:, top : top + inner_height, left : left + inner_width] = inner
    return result


def lay_on(light: Light, color: NDArray[np.float32]) -> Light:
    """A transparent picture laid on a color of linear light, shape (3,): three planes, opaque."""
    if len(light) < 4:
        return light
    laid: Light = light[:3] + (1 - light[3]) * color[:, None, None]
    return laid


def grey_of(light: Light, *, wide: bool = False) -> Light:
    """A picture in sRGB or Display P3 without its colors, as light as it was."""
    grey = np.tensordot(_LUMINANCE_WIDE if wide else _LUMINANCE, light[:3], axes=1).astype(np.float32)
    return np.stack([grey, grey, grey, *light[3:]])
