"""Boxes that behave the same over all viewports, so that one width describes all of them.

An image is no wider than its file where nothing but `max-width: 100%` sizes it. So of two images in one place the one with the
larger file may be shown wider; they are the same nevertheless: each is as wide as the place, or as its file if that is less.
"""

from __future__ import annotations

import bisect
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from sarvel.core.layout.bends import Widths
from sarvel.core.layout.fitted import ALLOWED, Pull


@dataclass(frozen=True)
class Measured:
    """One box, measured.

    Attributes:
        widths: by viewport width, CSS px.
        pulls: other dependencies, at some viewport widths.
        limit: width of its file, CSS px, if that limits it on some viewport; None if it does not.
    """

    widths: Widths
    pulls: Mapping[int, Pull]
    limit: int | None = None

    @classmethod
    def of(cls, widths: Widths, pulls: Mapping[int, Pull], natural: int) -> Measured:
        """A box whose file has a natural width, CSS px; 0 where that does not count."""
        meets = any(width is not None and abs(width - natural) <= ALLOWED for width in widths.values())
        beyond = any(width is not None and width > natural + ALLOWED for width in widths.values())
        return cls(widths, pulls, natural if natural and meets and not beyond else None)

    @property
    def shown(self) -> bool:
        """Tells whether it is shown anywhere."""
        return any(width is not None for width in self.widths.values())


def united(boxes: Sequence[Measured]) -> Measured:
    """The place that all these boxes are in: as wide as the widest of them on each viewport."""
    at = sorted({viewport for box in boxes for viewport in box.widths})
    filled = [_filled(box.widths, at) for box in boxes]
    widths = {
        viewport: max((one for one in some if one is not None), default=None) for viewport, some in _columns(at, filled)
    }
    pulls: dict[int, Pull] = {}
    for box in boxes:
        for viewport, pull in box.pulls.items():
            width = box.widths.get(viewport)
            if width is not None and (box.limit is None or width < box.limit - ALLOWED or len(boxes) == 1):
                pulls.setdefault(viewport, pull)
    limits = [box.limit for box in boxes]
    return Measured(widths, pulls, None if None in limits else max(limit or 0 for limit in limits))


def are_alike(boxes: Sequence[Measured]) -> bool:
    """Tells whether one width describes all of these."""
    whole = united(boxes)
    for box in boxes:
        most = float("inf") if box.limit is None else box.limit
        at = sorted(whole.widths)
        for viewport, width in _filled(box.widths, at).items():
            place = whole.widths[viewport]
            if width is not None and place is not None and abs(min(place, most) - width) > ALLOWED:
                return False
    return True


def _columns(
    at: Sequence[int], filled: Sequence[Mapping[int, float | None]]
) -> Iterable[tuple[int, list[float | None]]]:
    return ((viewport, [one[viewport] for one in filled]) for viewport in at)


def _filled(widths: Widths, at: Sequence[int]) -> dict[int, float | None]:
    """The widths on more viewports: between two that were measured, on the line through them; there it does not bend."""
    known = sorted(widths)
    found: dict[int, float | None] = {}
    for viewport in at:
        if viewport in widths:
            found[viewport] = widths[viewport]
            continue
        i = bisect.bisect(known, viewport)
        left, right = (known[i - 1], known[i]) if 0 < i < len(known) else (None, None)
        y, y2 = (widths[left] if left else None), (widths[right] if right else None)
        inside = left is not None and right is not None and y is not None and y2 is not None
        found[viewport] = y + (y2 - y) * (viewport - left) / (right - left) if inside else None  # type: ignore[operator]
    return found


def sorted_apart(boxes: Sequence[Measured]) -> list[list[int]]:
    """Numbers of boxes in groups that are the same, the largest group first.

    Args:
        boxes: only boxes that are shown somewhere.
    """
    same: dict[tuple[object, ...], list[int]] = {}
    for number, box in enumerate(boxes):
        key = (box.limit, *(None if width is None else round(width, 1) for _, width in sorted(box.widths.items())))
        same.setdefault(key, []).append(number)
    groups: list[list[list[int]]] = []
    # The ones that no file limits say most of their place, so groups begin with them.
    for numbers in sorted(same.values(), key=lambda some: (boxes[some[0]].limit is not None, -len(some), some)):
        for group in groups:
            if are_alike([*(boxes[some[0]] for some in group), boxes[numbers[0]]]):
                group.append(numbers)
                break
        else:
            groups.append([numbers])
    flat = [sorted(number for numbers in group for number in numbers) for group in groups]
    return sorted(flat, key=lambda group: (-len(group), group))
