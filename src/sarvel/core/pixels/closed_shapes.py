"""Closed shapes: things have an outline, and lie free of the picture's edges.

Each level of a field gives shapes: all places above it that hang together. Each shape votes for its box, the more the sharper its
outline is, the freer it lies, the larger it is, and the more there is in it that is not foreseen.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from sarvel.core.pixels.small import Field

# Found on the labelled photographs of bench/, where more levels or other shares changed hardly anything.
_LEVELS = np.linspace(0.3, 0.98, 14)  # shares of the places below a level
_LEAST, _MOST = 0.006, 0.8  # smaller or larger shares of the picture are no subject
_SIZE_COUNTS, _FREEDOM_COUNTS, _VOTE = 0.4, 2, 3  # exponents

_ROUND = np.ones((3, 3), bool)
_AROUND = 3  # px around a shape that are looked at with it

Mask = NDArray[np.bool_]  # (rows, columns)


class ClosedShape(NamedTuple):
    """A closed shape.

    Attributes:
        rows, columns: of the box that holds it.
        share: of the picture that it covers.
        crisp: how well its outline sets it off, and how large it is, >= 0: on one photograph of ten the best has more than 12,
            a disc in full contrast has about 16.
        inside: the average within it of the requested field.
    """

    rows: slice
    columns: slice
    share: float
    crisp: float
    inside: float


def closed_shapes(lab: Field, fields: Sequence[Field], inside: Field) -> list[ClosedShape]:
    """All shapes of all levels of the fields.

    Args:
        lab: L*, a* and b*: (3, rows, columns).
        fields: (rows, columns) each, the sources of shapes.
        inside: what to average within each: (rows, columns).
    """
    steep = np.sqrt(sum(ndimage.gaussian_gradient_magnitude(channel, 0.8) ** 2 for channel in lab))
    return [shape for field in fields for shape in _shapes(field, steep, inside)]


def votes_of(shapes: Sequence[ClosedShape], size: tuple[int, int]) -> Field:
    """The votes of shapes for each place of so many rows and columns: >= 0, 1 on average if there are any."""
    votes = np.zeros(size)
    for shape in shapes:
        votes[shape.rows, shape.columns] += shape.crisp**_VOTE * shape.inside
    return np.asarray(votes / (votes.mean() or 1.0))


def _shapes(field: Field, steep: Field, inside: Field) -> Iterator[ClosedShape]:
    for level in np.unique(np.quantile(field, _LEVELS)):
        labels, count = ndimage.label(field > level, _ROUND)
        shares = np.bincount(labels.ravel(), minlength=count + 1) / labels.size
        for i, place in enumerate(ndimage.find_objects(labels), start=1):
            if _LEAST <= shares[i] <= _MOST:
                rows, columns = (slice(max(0, one.start - _AROUND), one.stop + _AROUND) for one in place)
                mask = ndimage.binary_fill_holes(labels[rows, columns] == i)
                crisp = _outlined(mask, steep[rows, columns]) * shares[i] ** _SIZE_COUNTS
                yield ClosedShape(place[0], place[1], shares[i], crisp, float(inside[rows, columns][mask].mean()))


def _outlined(mask: Mask, steep: Field) -> float:
    """The change of color along a shape's outline, as far as that is not the picture's edge.

    Args:
        mask: the shape with its surroundings; on the sides of this array only where the picture ends.
        steep: the change of color at each place.
    """
    wide = np.pad(mask, 1)
    beside = (wide[:-2, 1:-1], wide[2:, 1:-1], wide[1:-1, :-2], wide[1:-1, 2:])
    outline = np.logical_or.reduce((mask, *beside)) & ~np.logical_and.reduce((mask, *beside))
    cut_off = mask[0].sum() + mask[-1].sum() + mask[:, 0].sum() + mask[:, -1].sum()
    free = max(0.0, 1 - cut_off / outline.sum())
    return float(steep[outline].mean() * free**_FREEDOM_COUNTS)
