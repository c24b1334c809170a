"""Resampling in linear light: design rule "Resampling".

Separable Lanczos-3 whose support grows with the reduction (Turkowski, "Filters for Common Resampling Tasks", Graphics
Gems I, 1990). Each axis is a banded matrix; it is multiplied in dense blocks along its diagonal, which a BLAS does faster
than it could walk a sparse matrix. The picture passes in strips, so that only the result is ever whole in floats.

Light is an array of planes, (channels, height, width) of float32: three of linear light 0 to 1, and for transparent
pictures a fourth of opacity 0 to 1, by which the first three are already multiplied.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from sarvel.core.crop.place import Box
from sarvel.core.pixels.light import LIGHT_OF_BYTE, SHARE_OF_BYTE, bytes_from_light, bytes_from_share

Pixels: TypeAlias = NDArray[np.uint8]  # (height, width, 3 or 4): sRGB bytes, and straight alpha
Light: TypeAlias = NDArray[np.float32]  # (3 or 4, height, width): see above

_LOBES = 3
_ROWS = 24  # result rows a strip, result columns a block: below it BLAS calls dominate, above it zeros do (measured)


@dataclass(frozen=True)
class _Block:
    """Some neighbouring results of one axis and what they are made of.

    Attributes:
        into: which results.
        of: which samples they are weighed from.
        weights: (results, samples) of float32; every row adds up to 1.
    """

    into: slice
    of: slice
    weights: NDArray[np.float32]


def reduce_pixels(pixels: Pixels, box: Box, width: int, height: int) -> Light:
    """A cut of a stored picture, at a size, as light.

    Args:
        pixels: the picture.
        box: the cut, px of the picture, fractions allowed, inside it. Pixels that it does not touch have no influence.
        width: result, px, >= 1.
        height: result, px, >= 1.
    """
    columns = slice(int(np.floor(box.left)), int(np.ceil(box.right)))
    rows = _axis(box.top, box.bottom, height)
    across = _axis(box.left - columns.start, box.right - columns.start, width)
    return _reduced(lambda of: _light_rows(pixels[of, columns]), pixels.shape[2], rows, across, (height, width))


def reduce_light(light: Light, width: int, height: int) -> Light:
    """All of a picture that is light already, at a smaller size."""
    rows, across = _axis(0, light.shape[1], height), _axis(0, light.shape[2], width)

    def strip(of: slice) -> Light:
        return light[:, of].transpose(1, 0, 2).reshape(of.stop - of.start, -1)

    return _reduced(strip, light.shape[0], rows, across, (height, width), planar=True)


def pixels_from_light(light: Light) -> Pixels:
    """Light as it is stored: sRGB bytes and straight alpha, rounded to the nearest. Where nothing shows, black."""
    _, height, width = light.shape
    pixels = np.empty((height, width, light.shape[0]), np.uint8)
    color = light[:3]
    if len(light) == 4:
        share = np.clip(light[3], 0.0, 1.0)
        pixels[..., 3] = bytes_from_share(share)
        color = np.where(pixels[..., 3] > 0, color / np.maximum(share, 1e-6), np.float32(0))
    for channel in range(3):
        pixels[..., channel] = bytes_from_light(color[channel])
    return pixels


def _light_rows(pixels: Pixels) -> Light:
    """Stored rows as light, (rows, width * channels), the channels of one pixel side by side."""
    rows, width, channels = pixels.shape
    if channels == 3:
        return np.take(LIGHT_OF_BYTE, pixels.reshape(rows, -1))
    light = np.empty(pixels.shape, np.float32)
    light[..., 3] = np.take(SHARE_OF_BYTE, pixels[..., 3])
    np.multiply(np.take(LIGHT_OF_BYTE, pixels[..., :3]), light[..., 3:], out=light[..., :3])
    return light.reshape(rows, width * channels)


def _reduced(
    strip: Callable[[slice], Light],
    channels: int,
    rows: Iterator[_Block],
    across: Iterator[_Block],
    size: tuple[int, int],
    *,
    planar: bool = False,
) -> Light:
    """Both axes, a strip of result rows at a time.

    Args:
        strip: gives rows of the source, (rows, width * channels); or (rows, channels * width) where it is `planar`.
        channels: how many planes.
        rows: blocks of the vertical axis.
        across: blocks of the horizontal axis.
        size: height and width of the result, px.
        planar: how `strip` orders its columns.
    """
    result: Light = np.empty((channels, *size), np.float32)
    columns = list(across)
    for block in rows:
        low = block.weights @ strip(block.of)
        count = len(low)
        if planar:
            planes = low.reshape(count * channels, -1)
        else:
            planes = np.ascontiguousarray(low.reshape(count, -1, channels).transpose(0, 2, 1)).reshape(
                count * channels, -1
            )
        narrow = np.empty((count * channels, size[1]), np.float32)
        for column in columns:
            np.matmul(planes[:, column.of], column.weights.T, out=narrow[:, column.into])
        result[:, block.into] = narrow.reshape(count, channels, -1).transpose(1, 0, 2)
    return result


def _axis(start: float, end: float, count: int) -> Iterator[_Block]:
    """The weights of one axis: `count` results evenly over the samples from `start` to `end`.

    Sample i lies at i + 1/2, result j in the middle of its share of the stretch, so nothing shifts by half a pixel.
    Weights of samples beyond the stretch are dropped and the rest made to add up to 1 again.
    """
    step = (end - start) / count
    spread = max(1.0, step)
    first, last = int(np.floor(start)), int(np.ceil(end))
    for begin in range(0, count, _ROWS):
        into = slice(begin, min(begin + _ROWS, count))
        centres = start + (np.arange(into.start, into.stop) + 0.5) * step
        of = slice(
            max(first, int(np.floor(centres[0] - _LOBES * spread))),
            min(last, int(np.ceil(centres[-1] + _LOBES * spread))),
        )
        distance = (np.arange(of.start, of.stop) + 0.5 - centres[:, None]) / spread
        weights = np.where(np.abs(distance) < _LOBES, np.sinc(distance) * np.sinc(distance / _LOBES), 0.0)
        yield _Block(into, of, (weights / weights.sum(axis=1, keepdims=True)).astype(np.float32))
