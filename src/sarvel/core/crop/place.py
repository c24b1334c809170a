"""Placing a cut: the largest rectangle of a ratio that keeps the subject.

Boxes are real numbers throughout; the resampler takes fractional boxes, so nothing is rounded to pixels.
"""

from __future__ import annotations

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

    def times(self, width: float, height: float) -> Box:
        """This box of fractions in a picture of that size, px."""
        return Box(self.left * width, self.top * height, self.right * width, self.bottom * height)


WHOLE = Box(0.0, 0.0, 1.0, 1.0)


def place(width: float, height: float, ratio: float, subject: Box = WHOLE) -> Box:
    """Where a cut lies: design rule "Cut".

    The largest rectangle of the ratio inside the master, moved so that the subject's centre is as near the rectangle's
    centre as the edges allow, then moved least until the subject is wholly inside, if it can be.

    Args:
        width: the master's width, px, > 0.
        height: the master's height, px, > 0.
        ratio: the cut's width divided by its height, > 0.
        subject: what must stay in view, in fractions of the master's width and height, within 0 to 1.

    Returns:
        The cut in px of the master, wholly inside it.
    """
    cut_width = min(width, height * ratio)
    cut_height = min(height, width / ratio)
    wanted = subject.times(width, height)
    left = _slide(width, cut_width, wanted.left, wanted.right)
    top = _slide(height, cut_height, wanted.top, wanted.bottom)
    return Box(left, top, left + cut_width, top + cut_height)


def _slide(whole: float, part: float, start: float, end: float) -> float:
    """Where a part of that length begins on a line from 0 to `whole`, to have the stretch start..end in its middle.

    A part centred on the stretch holds all of it, or as much as it can; and holding it at an edge of the line moves it
    only towards what the line still has of the stretch. So no third step is needed to get the subject inside.
    """
    return min(max((start + end - part) / 2, 0.0), whole - part)


def kept(cut: Box, subject: Box) -> float:
    """The share of the subject that a cut shows, 0 to 1, by area; both boxes in the same units."""
    across = max(0.0, min(cut.right, subject.right) - max(cut.left, subject.left))
    down = max(0.0, min(cut.bottom, subject.bottom) - max(cut.top, subject.top))
    return across * down / (subject.width * subject.height)
