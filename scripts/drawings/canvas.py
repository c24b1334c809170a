"""A canvas in linear light, shapes as signed distances, and noise: what the pictures are drawn with.

Coordinates are in picture heights: x from 0 to width / height, y from 0 at the top to 1. So a picture can be drawn at any
size, and comes out the same but for its grain.
"""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFont

from sarvel.core.pixels.light import bytes_from_light, linear_from_srgb
from sarvel.core.pixels.resample import Pixels

Field: TypeAlias = NDArray[np.floating[Any]]  # one value for each point, (rows, columns) or what broadcasts to it
Shape: TypeAlias = Callable[[Field, Field], Field]  # x, y to the signed distance, negative inside, in heights
Color: TypeAlias = str | Field  # "#rrggbb", or light of shape (rows, columns, 3)


def light_of(color: str) -> NDArray[np.float32]:
    """Linear light, shape (3,), of an sRGB color such as "#1b2a4e"."""
    return linear_from_srgb(np.array([int(color[i : i + 2], 16) for i in (1, 3, 5)]) / 255).astype(np.float32)


class Canvas:
    """A picture being drawn.

    Attributes:
        light: (height, width, 3) of float32, linear, 0 to 1 and above.
        x: (1, width), y: (height, 1): where pixel centres lie.
        pixel: size of a pixel, in heights.
    """

    def __init__(self, width: int, height: int, seed: int) -> None:
        self.pixel = 1 / height
        self.x: Field = ((np.arange(width, dtype=np.float32) + 0.5) * self.pixel)[None, :].astype(np.float32)
        self.y: Field = ((np.arange(height, dtype=np.float32) + 0.5) * self.pixel)[:, None].astype(np.float32)
        self.light = np.zeros((height, width, 3), np.float32)
        self._random = np.random.default_rng(seed)

    @property
    def wide(self) -> float:
        """The width, in heights."""
        return self.light.shape[1] * self.pixel

    def gradient(self, stops: list[tuple[float, str]]) -> None:
        """Fills from top to bottom; each stop is a y and the color there."""
        places = [place for place, _ in stops]
        colors = np.array([light_of(color) for _, color in stops])
        for channel in range(3):
            self.light[..., channel] = np.interp(self.y[:, 0], places, colors[:, channel])[:, None]

    def paint(self, color: Color, shape: Shape, soft: float = 0.0, opacity: float | Field = 1.0) -> None:
        """Lays a color over the inside of a shape, whose edge is `soft` heights wide, a pixel at least."""
        rows, columns = self._window(shape, soft)
        cover = self.cover(shape, soft, (rows, columns))
        share = opacity if isinstance(opacity, float) else _part(opacity, rows, columns)
        cover = (cover * share)[..., None]
        paint = light_of(color) if isinstance(color, str) else color[rows, columns]
        self.light[rows, columns] += (paint - self.light[rows, columns]) * cover

    def glow(self, color: str, strength: Field) -> None:
        """Adds light of a color everywhere."""
        self.light += light_of(color) * strength[..., None]

    def cover(self, shape: Shape, soft: float = 0.0, window: tuple[slice, slice] = (slice(None), slice(None))) -> Field:
        """The share of each pixel that lies in a shape, 0 to 1."""
        rows, columns = window
        distance = shape(self.x[:, columns], self.y[rows])
        edge = max(soft, self.pixel)
        return np.asarray(np.clip(0.5 - distance / edge, 0, 1), np.float32)

    def noise(self, across: float, down: float, octaves: int = 5, rise: float = 0.5) -> Field:
        """Smooth noise around 0, about -1 to 1: so many bumps a height, then twice as many and `rise` as strong, and so on."""
        total: Field = np.zeros(self.light.shape[:2], np.float32)
        weight = 1.0
        for octave in range(octaves):
            # Bumps of less than two pixels are left out, but their random numbers are drawn: any size, same picture.
            fine = max(across, down) * 2**octave
            bumps = (int(down * 2**octave) + 2, int(across * self.wide * 2**octave) + 2)
            lattice = self._random.uniform(-1, 1, bumps).astype(np.float32)
            if fine * self.pixel <= 0.5:
                total += weight * self._between(lattice, across * 2**octave, down * 2**octave)
            weight *= rise
        return total

    def grain(self, amount: float) -> None:
        """Film grain: equal in all channels, stronger where the picture is neither dark nor bright."""
        grain = self._random.normal(0, amount, self.light.shape[:2]).astype(np.float32)
        level = np.sqrt(np.clip(self.light, 0, 1))
        self.light += grain[..., None] * level * (1.15 - level)

    def pixels(self) -> Pixels:
        """The picture as it is stored."""
        return bytes_from_light(self.light)

    def _between(self, lattice: Field, across: float, down: float) -> Field:
        """A lattice of values, smoothly filled in: its rows `1 / down` apart, its columns `1 / across`."""
        return (
            _filling(self.y[:, 0] * down, len(lattice)) @ lattice @ _filling(self.x[0] * across, lattice.shape[1]).T
        ).astype(np.float32)

    def _window(self, shape: Shape, soft: float) -> tuple[slice, slice]:
        """The rows and columns that a shape can touch, found on every 16th pixel."""
        step = 16
        distance = shape(self.x[:, ::step], self.y[::step])
        near = (
            np.broadcast_to(distance, (len(self.y[::step]), self.x[:, ::step].shape[1])) < soft + 3 * step * self.pixel
        )
        rows, columns = np.flatnonzero(near.any(axis=1)), np.flatnonzero(near.any(axis=0))
        if not len(rows):
            return slice(0, 0), slice(0, 0)
        return (
            slice(max(0, (rows[0] - 1) * step), (rows[-1] + 2) * step),
            slice(max(0, (columns[0] - 1) * step), (columns[-1] + 2) * step),
        )


def _filling(places: Field, count: int) -> Field:
    """A matrix that blends `count` values at 0, 1, 2… into values at the places, with a smooth step between two."""
    before = np.minimum(places.astype(int), count - 2)
    share = places - before
    share = share * share * (3 - 2 * share)
    matrix = np.zeros((len(places), count), np.float32)
    rows = np.arange(len(places))
    matrix[rows, before], matrix[rows, before + 1] = 1 - share, share
    return matrix


def _part(field: Field, rows: slice, columns: slice) -> Field:
    return field[rows if field.shape[0] > 1 else slice(None), columns if field.shape[1] > 1 else slice(None)]


def disc(x: float, y: float, radius: float) -> Shape:
    """A circle and its inside."""
    return lambda u, v: np.hypot(u - x, v - y) - radius


def rect(left: float, top: float, right: float, bottom: float, round_: float = 0.0) -> Shape:
    """A rectangle, its corners rounded by a radius."""

    def distance(u: Field, v: Field) -> Field:
        across = np.abs(u - (left + right) / 2) - (right - left) / 2 + round_
        down = np.abs(v - (top + bottom) / 2) - (bottom - top) / 2 + round_
        outside = np.hypot(np.maximum(across, 0), np.maximum(down, 0))
        return np.asarray(outside + np.minimum(np.maximum(across, down), 0) - round_)

    return distance


def outline(shape: Shape, thick: float) -> Shape:
    """The edge of a shape, as a line."""
    return lambda u, v: np.abs(shape(u, v)) - thick / 2


def line(*points: tuple[float, float], thick: float) -> Shape:
    """A line through points, with round ends."""

    def distance(u: Field, v: Field) -> Field:
        parts = [_to_segment(u, v, a, b) for a, b in pairwise(points)]
        return np.asarray(np.minimum.reduce(parts) - thick / 2)

    return distance


def polygon(*corners: tuple[float, float]) -> Shape:
    """A polygon; corners in order, the last joined to the first."""

    def distance(u: Field, v: Field) -> Field:
        nearest = np.minimum.reduce(
            [_to_segment(u, v, a, b) for a, b in zip(corners, corners[1:] + corners[:1], strict=True)]
        )
        inside = np.zeros(nearest.shape, bool)
        for (ax, ay), (bx, by) in zip(corners, corners[1:] + corners[:1], strict=True):
            if ay != by:
                inside ^= ((ay > v) != (by > v)) & (u < (bx - ax) * (v - ay) / (by - ay) + ax)
        return np.asarray(np.where(inside, -nearest, nearest))

    return distance


def union(*shapes: Shape, blend: float = 0.0) -> Shape:
    """All of several shapes, melted into each other over a distance."""

    def distance(u: Field, v: Field) -> Field:
        total = shapes[0](u, v)
        for shape in shapes[1:]:
            other = shape(u, v)
            near: Field | float = np.maximum(blend - np.abs(total - other), 0) / blend if blend else 0.0
            total = np.minimum(total, other) - near * near * blend / 4
        return np.asarray(total)

    return distance


def _to_segment(u: Field, v: Field, a: tuple[float, float], b: tuple[float, float]) -> Field:
    dx, dy = b[0] - a[0], b[1] - a[1]
    along = np.clip(((u - a[0]) * dx + (v - a[1]) * dy) / (dx * dx + dy * dy), 0, 1)
    return np.hypot(u - a[0] - along * dx, v - a[1] - along * dy)


def lettering(
    canvas: Canvas, text: str, place: tuple[float, float], size: float, color: str, turn: float = 0.0
) -> None:
    """Writes a text centred on a place, letters `size` heights high, turned by degrees counter-clockwise."""
    height, width = canvas.light.shape[:2]
    mask = Image.new("L", (width, height), 0)
    font = ImageFont.load_default(size / canvas.pixel)
    at = (place[0] / canvas.pixel, place[1] / canvas.pixel)
    ImageDraw.Draw(mask).text(at, text, fill=255, font=font, anchor="mm")
    if turn:
        mask = mask.rotate(turn, Image.Resampling.BICUBIC, center=at)
    cover = (np.asarray(mask).astype(np.float32) / 255)[..., None]
    canvas.light += (light_of(color) - canvas.light) * cover
