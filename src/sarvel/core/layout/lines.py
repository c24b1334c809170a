"""Straight pieces of a measured width: as few lines as come close to every point, one after another."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeAlias

from sarvel.core.layout.bends import CLOSE, Widths

Point: TypeAlias = tuple[int, float]
"""A viewport width and the width of a box on it, CSS px."""

_LOOSE = 0.5
"""Distance of a looser fit, CSS px: steps of whole px, as in tables, lie within it; and half a pixel asks for no other file."""


@dataclass(frozen=True)
class Piece:
    """Points that lie on one line.

    Attributes:
        points: in order, at least one.
        slope: rise of the line, CSS px for each px of viewport; 0 for a single point.
    """

    points: tuple[Point, ...]
    slope: float

    @property
    def start(self) -> int:
        """The first viewport width, CSS px."""
        return self.points[0][0]

    @property
    def end(self) -> int:
        """The last viewport width, CSS px."""
        return self.points[-1][0]


def pieces_of(seen: Widths) -> list[Piece]:
    """The pieces of a width, narrowest viewport first; places where nothing is shown belong to none.

    Each is as long as can be, so that there are as few as can be.
    """
    points = [(at, width) for at, width in sorted(seen.items()) if width is not None]
    tight, loose = _crop(points, CLOSE), _crop(points, _LOOSE)
    return tight if len(tight) <= len(loose) else loose


def _crop(points: Sequence[Point], close: float) -> list[Piece]:
    """Pieces whose lines pass all their points within a distance, CSS px."""
    pieces: list[Piece] = []
    part: list[Point] = []
    low, high = -math.inf, math.inf
    for x, y in points:
        # A line that passes all points within `close` has a slope between these, for every pair of them.
        lows, highs = ([(y - y2 + sign * 2 * close) / (x - x2) for x2, y2 in part] for sign in (-1, 1))
        further = max(low, *lows, -math.inf), min(high, *highs, math.inf)
        if further[0] > further[1]:
            pieces.append(_piece(part, low, high))
            part, further = [], (-math.inf, math.inf)
        part.append((x, y))
        low, high = further
    return [*pieces, _piece(part, low, high)] if part else pieces


def _piece(part: Sequence[Point], low: float, high: float) -> Piece:
    (x, y), (x2, y2) = part[0], part[-1]
    slope = (y2 - y) / (x2 - x) if x2 > x else 0.0
    return Piece(tuple(part), slope if low <= slope <= high else (low + high) / 2)
