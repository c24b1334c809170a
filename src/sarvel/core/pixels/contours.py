"""Contours of a plane: where it crosses a level; and lines with fewer points.

Marching squares: Lorensen and Cline, "Marching Cubes", SIGGRAPH 1987, in two dimensions. Fewer points: Douglas and Peucker,
"Algorithms for the reduction of the number of points required to represent a digitized line", The Canadian Cartographer
10, 1973.
"""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

Contour: TypeAlias = NDArray[
    np.float64
]  # (points, 2): row and column of each, in px; a closed one ends where it begins
_Edge: TypeAlias = tuple[int, int, bool]  # from a sample to the one on its right, or (True) to the one below

# Which sides of a cell (0 top, 1 right, 2 bottom, 3 left) a contour joins, by the corners that lie above the level:
# 1 top left, 2 top right, 4 bottom right, 8 bottom left. In the two saddles corners above the level are kept apart.
_JOINED: dict[int, tuple[tuple[int, int], ...]] = {
    1: ((3, 0),), 2: ((0, 1),), 3: ((3, 1),), 4: ((1, 2),), 5: ((3, 0), (1, 2)), 6: ((0, 2),), 7: ((3, 2),),
    8: ((2, 3),), 9: ((2, 0),), 10: ((0, 1), (2, 3)), 11: ((2, 1),), 12: ((1, 3),), 13: ((1, 0),), 14: ((0, 3),),
}  # fmt: skip


def contours(plane: NDArray[np.float64], level: float) -> list[Contour]:
    """All contours of a plane, (height, width), at a level; none if it is less than two samples wide or high."""
    above = (plane >= level).astype(np.int64)
    cases = above[:-1, :-1] + 2 * above[:-1, 1:] + 4 * above[1:, 1:] + 8 * above[1:, :-1]
    joined: dict[_Edge, list[_Edge]] = {}
    for row, column in np.argwhere((cases > 0) & (cases < 15)).tolist():
        sides = ((row, column, False), (row, column + 1, True), (row + 1, column, False), (row, column, True))
        for one, two in _JOINED[int(cases[row, column])]:
            joined.setdefault(sides[one], []).append(sides[two])
            joined.setdefault(sides[two], []).append(sides[one])
    ends = [edge for edge, others in joined.items() if len(others) == 1]
    lines = (_walk(start, joined) for start in [*ends, *joined] if joined[start])
    return [np.array([_crossing(plane, level, edge) for edge in line]) for line in lines]


def simplified(line: Contour, tolerance: float) -> Contour:
    """The line with as few of its points as keep it within `tolerance` px of where it was."""
    keep = np.zeros(len(line), bool)
    keep[[0, -1]] = True
    stretches = [(0, len(line) - 1)]
    while stretches:
        first, last = stretches.pop()
        if last - first < 2:
            continue
        away = _distances(line[first + 1 : last], line[first], line[last])
        furthest = int(away.argmax())
        if away[furthest] > tolerance:
            middle = first + 1 + furthest
            keep[middle] = True
            stretches += [(first, middle), (middle, last)]
    return line[keep]


def _distances(points: Contour, start: NDArray[np.float64], end: NDArray[np.float64]) -> NDArray[np.float64]:
    along = end - start
    length = float(np.hypot(*along))
    row, column = (points - start).T
    if not length:
        return np.asarray(np.hypot(row, column))
    return np.asarray(np.abs(row * along[1] - column * along[0]) / length)


def _walk(start: _Edge, joined: dict[_Edge, list[_Edge]]) -> list[_Edge]:
    """From crossing to crossing, each join used once, until all are used."""
    line = [start]
    while joined[line[-1]]:
        here = line[-1]
        there = joined[here].pop()
        joined[there].remove(here)
        line.append(there)
    return line


def _crossing(plane: NDArray[np.float64], level: float, edge: _Edge) -> tuple[float, float]:
    row, column, down = edge
    here, there = plane[row, column], plane[row + down, column + (not down)]
    share = float((level - here) / (there - here))
    return (row + share, float(column)) if down else (float(row), column + share)
