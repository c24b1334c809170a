"""Small copies of pictures, their colors as people see them, and fields of numbers over their places."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from sarvel.core.crop.place import Box
from sarvel.core.pixels.light import linear_from_srgb
from sarvel.core.pixels.resample import Pixels, pixels_from_light, reduce_pixels

Field = NDArray[np.float64]
"""A number at each place of a small copy: (rows, columns)."""

# IEC 61966-2-1, section 5.3, and CIE 15:2018, section 8.2.1, with the white of D65.
_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
_WHITE = _XYZ.sum(axis=1)


def reduced(pixels: Pixels, side: int) -> Pixels:
    """A copy whose longer side is so many px; of large pictures only every second, third … pixel is looked at."""
    height, width = pixels.shape[:2]
    step = max(1, max(height, width) // (2 * side))
    pixels = np.ascontiguousarray(pixels[::step, ::step])
    height, width = pixels.shape[:2]
    scale = side / max(height, width)
    size = max(8, round(width * scale)), max(8, round(height * scale))
    return pixels_from_light(reduce_pixels(pixels, Box(0, 0, width, height), *size))


def lab_of(pixels: Pixels) -> NDArray[np.float64]:
    """The channels L*, a* and b* of CIELAB: (3, rows, columns)."""
    xyz = linear_from_srgb(pixels[..., :3] / 255) @ _XYZ.T / _WHITE
    f = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])])


def scaled(values: Field) -> Field:
    """Values scaled to 0 to 1 within the picture; a hundredth at either end does not count."""
    low, high = np.percentile(values, (1, 99))
    return np.asarray(np.clip((values - low) / (high - low + 1e-9), 0.0, 1.0))


def averaged(values: Field, size: tuple[int, int]) -> Field:
    """Averages of a field over a coarser grid of so many rows and columns."""
    rows, columns = (np.linspace(0, n, m + 1) for n, m in zip(values.shape, size, strict=True))
    sums = np.pad(values.cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0)))
    at = ndimage.map_coordinates(sums, np.meshgrid(rows, columns, indexing="ij"), order=1)
    area = math.prod(values.shape) / math.prod(size)
    return np.asarray(np.maximum(np.diff(np.diff(at, axis=0), axis=1) / area, 0.0))  # below 0 only by rounding
