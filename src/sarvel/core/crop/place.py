"""Placing a crop: the largest rectangle of a ratio that keeps the subject.

Boxes are real numbers throughout; the resampler takes fractional boxes, so nothing is rounded to pixels.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Box:
    """A rectangle in a master. In px from its left top corner, or in fractions of its width and height.

    Attributes:
        left: first column; top: first row; right, bottom: where it ends; left < right, top < bottom.
    """

    left: float
    top: float
    right: float
    bottom: float

    @property
    def width(self) -> float:
        """From left to right."""
        return self.right - self.left

    @property
    def height(self) -> float:
        """From top to bottom."""
        return self.bottom - self.top

    @property
    def edges(self) -> tuple[float, float, float, float]:
        """Left, top, right and bottom."""
        return self.left, self.top, self.right, self.bottom

    def times(self, width: float, height: float) -> Box:
        """This box of fractions in a picture of that size, px."""
        return Box(self.left * width, self.top * height, self.right * width, self.bottom * height)

    def around(self, other: Box) -> Box:
        """The least box that holds both."""
        return Box(
            min(self.left, other.left),
            min(self.top, other.top),
            max(self.right, other.right),
            max(self.bottom, other.bottom),
        )


WHOLE = Box(0.0, 0.0, 1.0, 1.0)
CENTRE = (0.5, 0.5)

# The share of the loss of a tall subject that is at its top: heads, blossoms and gables are there. Our choice.
_LOST_ABOVE = 1 / 3

# Sizes that differ by less than this share are one size: what fractions of binary numbers lose on the way.
_HAIR = 1e-9


def place(
    width: float,
    height: float,
    ratio: float,
    subjects: Sequence[Box] = (WHOLE,),
    *,
    zoom: float = 1.0,
    lean: tuple[float, float] = CENTRE,
) -> Box:
    """Places a crop: docs/inside.md, "Crop".

    The largest rectangle of the ratio inside the master, divided by zoom, moved so that the subject's centre is as near
    its place in the rectangle as the edges allow, then moved least until the subject is wholly inside. Zoom shrinks until
    the subject fits, down to 1.

    Args:
        width: the master's width, px, > 0.
        height: the master's height, px, > 0.
        ratio: the crop's width divided by its height, > 0.
        subjects: the parts to keep in view, in fractions of the master's width and height, within 0 to 1; a point has no
            width. The first matters most: it is placed, and all are kept in view only if they fit. If it is
            taller than the crop, a third of the loss is at its top; of others that lie within it, the next one that
            fits is kept.
        zoom: >= 1; more comes closer.
        lean: where in the crop the subject's centre should be, in fractions of the crop; the middle unless told.

    Returns:
        The crop in px of the master, wholly inside it.
    """
    largest = min(width, height * ratio), min(height, width / ratio)
    first = subjects[0].times(width, height)
    every = functools.reduce(Box.around, (subject.times(width, height) for subject in subjects))
    wanted = every if _room(largest, every) >= 1 - _HAIR else first
    closer = max(1.0, min(zoom, _room(largest, wanted)))
    crop_width, crop_height = largest[0] / closer, largest[1] / closer
    left = _slide(width, crop_width, (first.left + first.right) / 2, lean[0], (wanted.left, wanted.right))
    top = _slide(height, crop_height, (first.top + first.bottom) / 2, lean[1], (wanted.top, wanted.bottom))
    if first.height > crop_height * (1 + _HAIR) and lean == CENTRE and subjects[0] != WHOLE:
        top = min(first.top + (first.height - crop_height) * _LOST_ABOVE, height - crop_height)
    for inner in (subject.times(width, height) for subject in subjects[1:]):
        if first.around(inner) == first and inner.width <= crop_width and inner.height <= crop_height:
            left = min(max(left, inner.right - crop_width), inner.left)
            top = min(max(top, inner.bottom - crop_height), inner.top)
            break
    return Box(left, top, left + crop_width, top + crop_height)


def padded(width: float, height: float, ratio: float) -> Box:
    """The smallest rectangle of a ratio around a whole master, centred: px of the master, beyond its edges."""
    wide, high = max(width, height * ratio), max(height, width / ratio)
    left, top = (width - wide) / 2, (height - high) / 2
    return Box(left, top, left + wide, top + high)


def at_least_a_pixel(box: Box, width: float, height: float) -> Box:
    """A rectangle, made a pixel wide and high where it is less, and kept inside a master of that size."""
    left, right = _stretched(box.left, box.right, width)
    top, bottom = _stretched(box.top, box.bottom, height)
    return Box(left, top, right, bottom)


def _stretched(start: float, end: float, whole: float) -> tuple[float, float]:
    if end - start >= 1:
        return start, end
    start = min(max(0.0, (start + end - 1) / 2), max(0.0, whole - 1))
    return start, start + 1


def _room(largest: tuple[float, float], subject: Box) -> float:
    """The factor by which a rectangle can shrink and still hold a subject; infinite for a point."""
    across = largest[0] / subject.width if subject.width else math.inf
    down = largest[1] / subject.height if subject.height else math.inf
    return min(across, down)


def _slide(whole: float, part: float, centre: float, lean: float, kept_: tuple[float, float]) -> float:
    """The start of a part on a line from 0 to `whole`.

    Args:
        part: length of the part, at most that.
        centre: the point of the line that is to be at its place in the part.
        lean: that place, in fractions of the part.
        kept_: the stretch of the line to keep inside the part, as far as possible.
    """
    begin = min(max(centre - lean * part, 0.0), whole - part)
    start, end = kept_
    least, most = min(end - part, start), max(end - part, start)
    return min(max(begin, least), most, whole - part) if most >= 0 else 0.0


def kept(crop: Box, subject: Box) -> float:
    """The share of the subject that a crop shows, 0 to 1, by area; both boxes in the same units."""
    return _overlap(crop.left, crop.right, subject.left, subject.right) * _overlap(
        crop.top, crop.bottom, subject.top, subject.bottom
    )


def _overlap(start: float, end: float, first: float, last: float) -> float:
    """The share of first..last that lies in start..end; 0 or 1 for a point."""
    if first == last:
        return 1.0 if start <= first <= end else 0.0
    return max(0.0, min(end, last) - max(start, first)) / (last - first)
