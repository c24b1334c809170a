"""Likeness of two pictures, 0 to 100: what a `finish` promises, and what the search for encoder numbers measures.

Structure is compared as in Wang, Bovik, Sheikh and Simoncelli, "Image quality assessment: from error visibility to
structural similarity", IEEE Transactions on Image Processing 13 (2004), and over several scales as in Wang, Simoncelli and
Bovik, "Multiscale structural similarity for image quality assessment", Asilomar 2003, whose window, constants and weights
these are. The similarity s of two pictures lies near 1 for all that anyone would publish; its distance √(1 − s), which is
a metric (Brunet, Vrscay and Wang, "On the mathematical properties of the structural similarity index", IEEE Transactions
on Image Processing 21, 2012), spreads that end out: likeness = 100 · (1 − √(1 − s)).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from sarvel.core.pixels.resample import Pixels

Plane: TypeAlias = NDArray[np.float32]  # (height, width), 0 to 255

_RADIUS = 5  # Wang 2004, section III.B: 11 × 11 px, σ = 1.5
_BELL = np.exp(-(np.arange(-_RADIUS, _RADIUS + 1) ** 2) / (2 * 1.5**2))
_WINDOW: Plane = (_BELL / _BELL.sum()).astype(np.float32)
_C1, _C2 = np.float32((0.01 * 255) ** 2), np.float32((0.03 * 255) ** 2)  # Wang 2004, section III.B: K1, K2
_SCALES = (0.0448, 0.2856, 0.3001, 0.2363, 0.1333)  # Wang 2003, section 3.2: from full size to a sixteenth

# From RGB, 0 to 255, to luma and two planes of chroma, 0 to 255 around 128: ITU-T T.871, section 7, as JPEG stores them.
_LUMA_CHROMA = np.array([[0.299, 0.587, 0.114], [-0.168736, -0.331264, 0.5], [0.5, -0.418688, -0.081312]], np.float32)
_SHARES = (6 / 8, 1 / 8, 1 / 8)  # of luma and the two of chroma: the customary 6:1:1 of video coding experiments

# Neighbouring windows overlap by ten of eleven pixels: of large planes every second or fourth one, in both directions, tells
# the same mean for a part of the work. Steps by the shorter side of the plane, px from which they are taken.
_STEPS = ((500, 4), (200, 2), (0, 1))


def likeness(reference: Pixels, other: Pixels) -> float:
    """The likeness of a picture to the one it was made from, 0 to 100; 100 only if they are equal.

    Args:
        reference: the picture, (height, width, 3), or 4 with straight alpha.
        other: the same size and number of channels.
    """
    return Reference(reference).likeness(other)


class Reference:
    """A picture that others are compared with; its own part of the work is done once."""

    def __init__(self, pixels: Pixels) -> None:
        """Takes the picture, as for `likeness`."""
        self._planes = [[_Scales(plane) for plane in planes] for planes in _planes(pixels)]

    def likeness(self, other: Pixels) -> float:
        """The likeness of another picture; transparent ones on black or on white, where they are less the same."""
        return min(
            _spread_out(
                sum(
                    share * scales.similarity(plane) for share, scales, plane in zip(_SHARES, mine, theirs, strict=True)
                )
            )
            for mine, theirs in zip(self._planes, _planes(other), strict=True)
        )

    def texture(self) -> tuple[float, float, float]:
        """How busy the picture is at full size, at half and at a quarter: mean of ln(1 + variance) of luma's windows, >= 0.

        If it is too small to be halved so often, the last scale is repeated.
        """
        scales = self._planes[0][0].textures()
        first, second, third = (scales[min(i, len(scales) - 1)] for i in range(3))
        return first, second, third


def similarity(reference: Plane, other: Plane) -> float:
    """Mean structural similarity of two planes at one scale, -1 to 1: Wang 2004, equation 13. Each side >= 11 px."""
    structure, luminance = _compared(_windows(reference, 1), _windows(other, 1), _bell(reference * other, 1))
    return float(np.mean(structure * luminance))


def _spread_out(similar: float) -> float:
    return 100 * (1 - float(np.sqrt(1 - min(1.0, max(0.0, similar)))))


def _planes(pixels: Pixels) -> list[list[Plane]]:
    """Luma and chroma, once for opaque pictures, on black and on white for others. The eye sees chroma at half the size."""
    color = pixels[..., :3].astype(np.float32)
    grounds: list[NDArray[np.float32]] = [color]
    if pixels.shape[2] == 4:
        opaque = pixels[..., 3:].astype(np.float32) / np.float32(255)
        grounds = [color * opaque, color * opaque + np.float32(255) * (1 - opaque)]
    planes: list[list[Plane]] = []
    for ground in grounds:
        luma: Plane = (ground @ _LUMA_CHROMA[0]).astype(np.float32)
        small = np.stack([_halved(ground[..., channel]) for channel in range(3)], axis=-1)
        chroma: list[Plane] = [(small @ row + 128).astype(np.float32) for row in _LUMA_CHROMA[1:]]
        planes.append([luma, *chroma])
    return planes


@dataclass(frozen=True)
class _Windows:
    """A plane under the window: its means, and its means of squares."""

    mean: Plane
    square: Plane


class _Scales:
    """A plane of the reference at every scale that its size allows."""

    def __init__(self, plane: Plane) -> None:
        self._steps: list[tuple[Plane, int, _Windows]] = []
        plane = _at_least_a_window(plane)
        for _ in _SCALES:
            step = next(step for side, step in _STEPS if min(plane.shape) >= side)
            self._steps.append((plane, step, _windows(plane, step)))
            plane = _halved(plane)
            if min(plane.shape) < len(_WINDOW):
                break

    def textures(self) -> list[float]:
        """The mean of ln(1 + variance) of the windows, at each scale."""
        variances = [np.maximum(windows.square - windows.mean**2, 0) for _, _, windows in self._steps]
        return [float(np.mean(np.log1p(one), dtype=np.float64)) for one in variances]

    def similarity(self, other: Plane) -> float:
        """Multi-scale similarity, 0 to 1: Wang 2003, equation 7."""
        other = _at_least_a_window(other)
        weights = np.array(_SCALES[: len(self._steps)])
        weights /= weights.sum()
        similar = 1.0
        for i, (plane, step, windows) in enumerate(self._steps):
            structure, luminance = _compared(windows, _windows(other, step), _bell(plane * other, step))
            last = i == len(self._steps) - 1
            at_scale = float(np.mean(structure * luminance if last else structure))
            similar *= max(0.0, at_scale) ** weights[i]
            other = _halved(other)
        return float(similar)


def _compared(one: _Windows, two: _Windows, product: Plane) -> tuple[Plane, Plane]:
    """Contrast and structure together, and luminance, of each window: Wang 2004, equations 6 and 12."""
    both, squares = one.mean * two.mean, one.mean**2 + two.mean**2
    structure = (2 * (product - both) + _C2) / (one.square + two.square - squares + _C2)
    luminance = (2 * both + _C1) / (squares + _C1)
    return structure.astype(np.float32, copy=False), luminance.astype(np.float32, copy=False)


def _windows(plane: Plane, step: int) -> _Windows:
    return _Windows(_bell(plane, step), _bell(plane * plane, step))


def _bell(plane: Plane, step: int) -> Plane:
    """The weighted mean of each window that lies wholly in the plane, of every `step`-th in both directions."""
    for axis in (0, 1):
        count = (plane.shape[axis] - len(_WINDOW)) // step + 1

        def shifted(by: int, of: Plane = plane, axis: int = axis, count: int = count) -> Plane:
            along = slice(by, by + (count - 1) * step + 1, step)
            return of[along] if axis == 0 else of[:, along]

        result = _WINDOW[_RADIUS] * shifted(_RADIUS)
        for k in range(_RADIUS):
            result += _WINDOW[k] * (shifted(k) + shifted(2 * _RADIUS - k))
        plane = result
    return plane


def _halved(plane: Plane) -> Plane:
    """Each two by two samples as their mean; an odd last row or column is left out."""
    height, width = plane.shape[0] // 2 * 2, plane.shape[1] // 2 * 2
    if not height or not width:
        return plane
    plane = plane[:height, :width]
    halved: Plane = (plane[::2, ::2] + plane[1::2, ::2] + plane[::2, 1::2] + plane[1::2, 1::2]) * np.float32(0.25)
    return halved


def _at_least_a_window(plane: Plane) -> Plane:
    rows, columns = (max(0, len(_WINDOW) - side) for side in plane.shape)
    return np.pad(plane, ((0, rows), (0, columns)), mode="edge") if rows or columns else plane
