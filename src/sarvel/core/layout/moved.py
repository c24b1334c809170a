"""Boxes of one page before and after, compared."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeAlias

Rect: TypeAlias = tuple[float, float, float, float]
"""Left, top, width and height, CSS px."""

Placed: TypeAlias = tuple[str, Rect]
"""A label for people, and where its box is."""

ALLOWED = 1.0
"""CSS px by which a box may differ: browsers snap boxes to whole pixels."""


@dataclass(frozen=True)
class Change:
    """A box that changed.

    Attributes:
        number: which of the page's elements it is.
    """

    number: int
    before: Placed
    after: Placed

    @property
    def size(self) -> bool:
        """Tells whether its size changed; else it only stands elsewhere."""
        return any(abs(self.before[1][i] - self.after[1][i]) > ALLOWED for i in (2, 3))

    @property
    def most(self) -> float:
        """By how much it differs, CSS px, at most."""
        return max(abs(old - new) for old, new in zip(self.before[1], self.after[1], strict=True))

    def __str__(self) -> str:
        label, (x, y, width, height) = self.before
        _, (x2, y2, width2, height2) = self.after
        if self.size:
            return f"{label} {width:g}×{height:g} became {width2:g}×{height2:g}"
        return f"{label} moved from {x:g}, {y:g} to {x2:g}, {y2:g}"


def changes_of(before: Sequence[Placed], after: Sequence[Placed]) -> list[Change] | None:
    """The boxes that changed, those of another size first; None if the pages are not made of the same elements.

    Args:
        before: all boxes, in the order of the page.
    """
    if [one[0].partition(".")[0] for one in before] != [one[0].partition(".")[0] for one in after]:
        return None
    pairs = enumerate(zip(before, after, strict=True))
    found = [Change(number, old, new) for number, (old, new) in pairs if _differ(old, new)]
    return sorted(found, key=lambda one: (not one.size, one.number))


def _differ(before: Placed, after: Placed) -> bool:
    return any(abs(old - new) > ALLOWED for old, new in zip(before[1], after[1], strict=True))
