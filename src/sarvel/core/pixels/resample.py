"""Resampling in linear light: docs/inside.md, "Resampling".

Separable Lanczos-3 whose support grows with the reduction (Turkowski, "Filters for Common Resampling Tasks", Graphics
Gems I, 1990). Each axis is a banded matrix; it is multiplied in dense blocks along its diagonal, which a BLAS does faster
than it could walk a sparse matrix. A stored picture passes in strips, so that only the result is ever whole in floats; who
reduces it several times turns it into light once.

Light is an array of planes, (channels, height, width) of float32: three of linear light 0 to 1, and for transparent
pictures a fourth of opacity 0 to 1, by which the first three are already multiplied.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from sarvel.core.crop.place import Box
from sarvel.core.pixels.light import LIGHT_OF_BYTE, SHARE_OF_BYTE, bytes_from_light, bytes_from_share

Pixels: TypeAlias = NDArray[np.uint8]  # (height, width, 3 or 4): sRGB bytes, and straight alpha
Light: TypeAlias = NDArray[np.float32]  # (3 or 4, height, width): see above

Each: TypeAlias = Callable[[Callable[[int], None], Iterable[int]], Iterable[None]]
"""Does something for each of some numbers: `map`, or one that does several at one time."""

_LOBES = 3
_ROWS = 24  # result rows a strip, result columns a block: below it BLAS calls dominate, above it zeros do (measured)
_AT_ONCE = 4_000_000  # px of a picture that is not held: as light, 48 MB
_ALL = 2**31  # more rows than a picture has
_BAND = 8  # rows turned into light, or from it, at a time: as many as a cache holds


@dataclass(frozen=True)
class _Block:
    """Some neighbouring results of one axis and their samples.

    Attributes:
        of: which samples they are weighed from.
        weights: (results, samples) of float32; every row adds up to 1.
    """

    into: slice
    of: slice
    weights: NDArray[np.float32]


def reduce_pixels(pixels: Pixels, box: Box, width: int, height: int) -> Light:
    """A crop of a stored picture, at a size, as light.

    Args:
        box: the crop, px of the picture, fractions allowed, inside it. Pixels that it does not touch have no influence.
        width: result, px, >= 1.
        height: result, px, >= 1.
    """
    return _reduced(lambda rows: light_of(pixels[rows]), pixels.shape[2], box, width, height)


def reduce_rows(
    rows: Callable[[slice], Pixels], shape: tuple[int, int, int], box: Box, width: int, height: int
) -> Light:
    """A crop of a picture that is too large to be held: `rows` reads whole rows of it, and `shape` is that of its light."""

    def planes(some: slice) -> Light:
        return light_of(rows(some))

    return _reduced(planes, shape[0], box, width, height, max(_BAND, _AT_ONCE // shape[2]))


def reduce_light(light: Light, width: int, height: int, box: Box | None = None) -> Light:
    """A crop of a picture that is light already; all of it, if no box is given."""
    whole = Box(0, 0, light.shape[2], light.shape[1])
    return _reduced(lambda rows: light[:, rows], len(light), box or whole, width, height)


def light_of_rows(rows: Callable[[slice], Pixels], shape: tuple[int, int, int], each: Each = map) -> Light:
    """A picture as light, all of it, that is never held as stored: as reduce_rows.

    Args:
        each: does something for each of some numbers, in any order or at one time.
    """
    light: Light = np.empty(shape, np.float32)

    def band(begin: int) -> None:
        of = slice(begin, min(shape[1], begin + _ROWS * 8))
        _turn_into_light(rows(of), light[:, of])

    for _ in each(band, range(0, shape[1], _ROWS * 8)):
        pass
    return light


def light_of(pixels: Pixels) -> Light:
    """A stored picture as light."""
    rows, columns, channels = pixels.shape
    light: Light = np.empty((channels, rows, columns), np.float32)
    _turn_into_light(pixels, light)
    return light


def _turn_into_light(pixels: Pixels, light: Light) -> None:
    for begin in range(0, len(pixels), _BAND):
        band = slice(begin, begin + _BAND)
        for channel in range(len(light)):
            table = LIGHT_OF_BYTE if channel < 3 else SHARE_OF_BYTE
            # No other mode writes straight into its place.
            np.take(table, pixels[band, :, channel], out=light[channel, band], mode="clip")
        if len(light) == 4:
            light[:3, band] *= light[3, band]


def pixels_from_light(light: Light) -> Pixels:
    """Light in storage form: sRGB bytes and straight alpha, rounded to the nearest. Black where it is transparent."""
    channels, height, width = light.shape
    pixels = np.empty((height, width, channels), np.uint8)
    for begin in range(0, height, _BAND):
        band = slice(begin, begin + _BAND)
        color, stored = light[:3, band], pixels[band]
        if channels == 4:
            share = np.clip(light[3, band], 0.0, 1.0)
            stored[..., 3] = bytes_from_share(share)
            color = np.where(stored[..., 3] > 0, color / np.maximum(share, 1e-6), np.float32(0))
        for channel in range(3):
            stored[..., channel] = bytes_from_light(color[channel])
    return pixels


def _reduced(
    planes: Callable[[slice], Light], channels: int, box: Box, width: int, height: int, most: int = _ALL
) -> Light:
    """Both axes, a strip of result rows at a time; `planes` gives rows of the source, whole, `most` of them at once."""
    result: Light = np.empty((channels, height, width), np.float32)
    across = list(_axis(box.left, box.right, width))
    columns = slice(across[0].of.start, max(block.of.stop for block in across))
    strip: Light = np.empty((channels, _ROWS, columns.stop - columns.start), np.float32)
    for down in _axis(box.top, box.bottom, height):
        low = strip[:, : len(down.weights)]
        _weigh(down, lambda rows: planes(rows)[:, :, columns], most, low)
        for block in across:
            of = slice(block.of.start - columns.start, block.of.stop - columns.start)
            np.matmul(low[:, :, of], block.weights.T, out=result[:, down.into, block.into])
    return result


def _weigh(down: _Block, planes: Callable[[slice], Light], most: int, low: Light) -> None:
    """Puts the products of a block of rows into `low`, summed up over no more source rows at once than memory should hold."""
    first, last = down.of.start, down.of.stop
    np.matmul(down.weights[:, :most], planes(slice(first, min(last, first + most))), out=low)
    for begin in range(first + most, last, most):
        of = slice(begin, min(last, begin + most))
        low += np.matmul(down.weights[:, begin - first : of.stop - first], planes(of))


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
        near = np.abs(distance) < _LOBES  # a fifth of a block
        weights = np.zeros(distance.shape)
        weights[near] = np.sinc(distance[near]) * np.sinc(distance[near] / _LOBES)
        yield _Block(into, of, (weights / weights.sum(axis=1, keepdims=True)).astype(np.float32))
