"""Placeholders for images that have not loaded: one color, a small preview, or an outline."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from sarvel.core.pixels.contours import Contour, contours, simplified
from sarvel.core.pixels.light import bytes_from_light
from sarvel.core.pixels.resample import Light, Pixels, pixels_from_light, reduce_light

MOST_OUTLINE = 1500
"""The most bytes of an outline in a page."""

_GRID = 96  # px of the longer side in which contours are traced: finer ones would not fit into the bytes
_FINE = 2  # steps of the outline's coordinates to a px of that grid
_LEVELS = 11
_EDGES = 0.75  # pixels steeper than this share of all pixels are an edge
_SHORTEST = 5  # points of a contour
_NEAR = 3.0  # px of the grid: a contour this near to a stronger one repeats it


def tint(light: Light) -> str:
    """The one color that a picture has from afar: the mean of its light, as "#rrggbb"."""
    mean = light[:3].mean(axis=(1, 2), dtype=np.float64).astype(np.float32)
    return "#" + "".join(f"{code:02x}" for code in bytes_from_light(mean))


def soft(light: Light, longest: int) -> Pixels:
    """The picture with its longer side `longest` px, at most its own, and blurred: enlarged, no pixel of it is seen."""
    blurred = ndimage.gaussian_filter(_within(light, longest), (0, 0.8, 0.8), mode="nearest")
    return pixels_from_light(blurred)


def outline(light: Light) -> str:
    """The strongest contours of an opaque picture as an SVG document of one line, at most MOST_OUTLINE bytes once escaped.

    A contour is strong if it is long and the picture changes much across it. Of parallel ones, one is kept.
    The lines are the picture's tint, darker on a light one and lighter on a dark one.
    """
    small = pixels_from_light(_within(light, _GRID)).astype(np.float64)
    luma = ndimage.gaussian_filter(small @ [0.2126, 0.7152, 0.0722], 1.2)
    height, width = luma.shape
    slope = np.hypot(*np.gradient(luma)) if min(luma.shape) > 1 else np.zeros_like(luma)
    head = (
        f"<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 {width * _FINE} {height * _FINE}' preserveAspectRatio='none'>"
        f"<path fill='none' stroke='{_line_color(light)}' stroke-width='{_FINE}' stroke-linejoin='round' d='"
    )
    path, left = "", MOST_OUTLINE - len(escaped(head + "'/></svg>"))
    for contour in _strongest(luma, slope):
        stroke = _stroke(contour)
        if stroke and len(stroke) <= left:
            path += stroke
            left -= len(stroke)
    return f"{head}{path}'/></svg>"


def escaped(svg: str) -> str:
    """An SVG document of one line as it follows `data:image/svg+xml,` in a URL that CSS need not quote."""
    for letter in "%#<>'\" ()":
        svg = svg.replace(letter, f"%{ord(letter):02X}")
    return svg


def _within(light: Light, longest: int) -> Light:
    _, height, width = light.shape
    scale = min(1.0, longest / max(height, width))
    return reduce_light(light, max(1, round(width * scale)), max(1, round(height * scale)))


def _line_color(light: Light) -> str:
    mean = light[:3].mean(axis=(1, 2), dtype=np.float64).astype(np.float32)
    bright = float(mean @ np.array([0.2126, 0.7152, 0.0722], np.float32)) > 0.18  # middle grey
    color = mean * 0.35 if bright else 1 - (1 - mean) * 0.7
    return "#" + "".join(f"{code:02x}" for code in bytes_from_light(color))


def _strongest(luma: NDArray[np.float64], slope: NDArray[np.float64]) -> list[Contour]:
    """Contours at several levels, where they follow an edge, strongest first, without those along a stronger one."""
    levels = np.unique(np.quantile(luma, np.linspace(0.06, 0.94, _LEVELS)))
    edge = float(np.quantile(slope, _EDGES))
    found = [
        (float((steepness**2).sum()), run)
        for level in levels
        for contour in contours(luma, float(level))
        for run, steepness in _runs(contour, slope, edge)
    ]
    taken = np.zeros(luma.shape, bool)
    kept = []
    for _, run in sorted(found, key=lambda pair: -pair[0]):
        rows, columns = np.rint(run).astype(int).T
        if taken[rows, columns].mean() > 0.5:
            continue
        kept.append(run)
        mark = np.ones(luma.shape, bool)
        mark[rows, columns] = False
        taken |= ndimage.distance_transform_edt(mark) <= _NEAR
    return kept


def _runs(contour: Contour, slope: NDArray[np.float64], edge: float) -> Iterator[tuple[Contour, NDArray[np.float64]]]:
    """The stretches of a contour along which the plane is steep, and how steep it is at each of their points."""
    steepness = ndimage.map_coordinates(slope, contour.T, order=1)
    smooth = ndimage.uniform_filter1d(steepness, 5, mode="nearest") if len(contour) > 5 else steepness
    changes = np.flatnonzero(np.diff(smooth >= edge)) + 1
    for first, last in itertools.pairwise([0, *changes.tolist(), len(contour)]):
        if last - first >= _SHORTEST and smooth[first] >= edge:
            yield contour[first:last], steepness[first:last]


def _stroke(contour: Contour) -> str:
    """A contour as SVG path data in whole numbers; "" if nothing of it is left."""
    points = np.rint((simplified(contour, 0.6) + 0.5) * _FINE).astype(int)[:, ::-1]
    steps = [tuple(step) for step in np.diff(points, axis=0) if step.any()]
    if not steps:
        return ""
    return f"M{points[0][0]},{points[0][1]}l" + ",".join(f"{x},{y}" for x, y in steps).replace(",-", "-")
