"""Shapes that are set off from all that lies around them.

A thing stands out if every way from it to the picture's edge crosses a change of color: that is the minimum barrier
distance (Zhang et al., "Minimum Barrier Salient Object Detection at 80 FPS", ICCV 2015), taken alone and together with
the contrast to the wide surroundings. Each level of these two maps gives shapes; the best is set off by a sharp outline,
against what lies around it, and large.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from sarvel.core.crop.place import WHOLE, Box
from sarvel.core.pixels.resample import Pixels
from sarvel.core.pixels.small import lab_of, reduced

SIDE = 128
"""The longer side that pictures are reduced to, px: what stands out to a person does so on a thumbnail."""

_SWEEPS = 3  # rounds of down, up, right, left; the paper finds that more change hardly anything
_WIDE = 20.0  # px of standard deviation that surroundings are averaged over
_LEVELS = np.linspace(0.3, 0.997, 40)  # shares of the pixels below a level

# Shapes smaller or larger than these shares of the picture are no subject; found by trying, as is how much size counts:
# on six pictures any exponent from 0.3 to 0.5 gave the same answers.
_LEAST, _MOST, _SIZE_COUNTS = 0.003, 0.85, 0.4

_CERTAIN = 3.0  # a score that is high for a photograph

_ROUND = np.ones((3, 3), bool)

Field = NDArray[np.float64]  # (rows, columns)
Mask = NDArray[np.bool_]  # (rows, columns)


def crispest_shape(pixels: Pixels) -> tuple[float, Box] | None:
    """The shape of a picture that is best set off, and how well: from 0, a disc in full contrast that fills it has about 1.7.

    None if there is no shape; where the picture is transparent, there is none.
    """
    small = reduced(pixels, SIDE)
    channels = lab_of(small)
    visible = small[..., 3] / 255 if small.shape[2] == 4 else np.ones(small.shape[:2])
    barrier = _scaled(sum((_barrier(channel) for channel in channels), np.zeros(small.shape[:2])) * visible)
    contrast = _scaled(_contrast(channels) * visible)
    outline = _steepness(channels)
    shapes = [*_shapes(barrier, outline), *_shapes(_scaled(np.sqrt(barrier * contrast)), outline)]
    score, box = max(shapes, key=lambda shape: shape[0], default=(0.0, WHOLE))
    return (score / _CERTAIN, box) if score > 0 else None


def _barrier(channel: Field) -> Field:
    """The minimum barrier distance of each pixel: how much the value varies on the best way to the picture's edge."""
    distance = np.full(channel.shape, np.inf)
    distance[0] = distance[-1] = distance[:, 0] = distance[:, -1] = 0
    state = np.stack([distance, channel, channel])  # and the highest and lowest value on the best way so far
    for _ in range(_SWEEPS):
        _sweep(state, channel)
        _sweep(state[:, ::-1], channel[::-1])
        _sweep(state.transpose(0, 2, 1), channel.T)
        _sweep(state.transpose(0, 2, 1)[:, ::-1], channel.T[::-1])
    return np.asarray(state[0])


def _sweep(state: Field, channel: Field) -> None:
    """Lets every row learn from the row before it, in place."""
    for row in range(1, len(channel)):
        high = np.maximum(state[1, row - 1], channel[row])
        low = np.minimum(state[2, row - 1], channel[row])
        better = high - low < state[0, row]
        for place, value in enumerate((high - low, high, low)):
            state[place, row][better] = value[better]


def _contrast(channels: Field) -> Field:
    """The distance of each pixel's color from the average of its wide surroundings."""
    near = ndimage.gaussian_filter(channels, (0, 1, 1))
    wide = ndimage.gaussian_filter(channels, (0, _WIDE, _WIDE))
    return np.asarray(np.sqrt(((near - wide) ** 2).sum(axis=0)))


def _steepness(channels: Field) -> Field:
    """The change of color at each pixel."""
    return np.asarray(np.sqrt(sum(ndimage.gaussian_gradient_magnitude(channel, 0.8) ** 2 for channel in channels)))


def _scaled(values: Field) -> Field:
    """Values scaled to 0 to 1."""
    spread = values.max() - values.min()
    return np.asarray((values - values.min()) / (spread or 1.0))


def _shapes(strength: Field, outline: Field) -> Iterator[tuple[float, Box]]:
    """All shapes of all levels, with how well each is set off."""
    rows, columns = strength.shape
    for level in np.unique(np.quantile(strength, _LEVELS)):
        labels, count = ndimage.label(strength > level, _ROUND)
        sizes = np.bincount(labels.ravel(), minlength=count + 1)
        for i, place in enumerate(ndimage.find_objects(labels), start=1):
            if _LEAST <= sizes[i] / labels.size <= _MOST:
                box = Box(
                    place[1].start / columns, place[0].start / rows, place[1].stop / columns, place[0].stop / rows
                )
                yield _set_off(labels == i, sizes[i] / labels.size, strength, outline), box


def _set_off(shape: Mask, share: float, strength: Field, outline: Field) -> float:
    """The score of a shape: its outline, its strength against its surroundings, its size; 0 if it lies along the edge."""
    shape = ndimage.binary_fill_holes(shape)
    grown = ndimage.binary_dilation(shape)
    border = grown & ~ndimage.binary_erosion(shape)
    width = max(2, int(0.15 * np.sqrt(shape.sum())))
    ring = ndimage.binary_dilation(shape, iterations=width) & ~grown
    if not ring.any():
        return 0.0
    cut_off = shape[0].sum() + shape[-1].sum() + shape[:, 0].sum() + shape[:, -1].sum()
    free = max(0.0, 1 - cut_off / border.sum())
    against = max(0.0, float(strength[shape].mean() - strength[ring].mean()))
    return float(outline[border].mean() * against * share**_SIZE_COUNTS * free)
