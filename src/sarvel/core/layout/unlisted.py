"""Visitors that no table lists: an even spread over viewports from narrow to wide, at all densities of a slot."""

from __future__ import annotations

import math
from collections.abc import Iterable

from sarvel.core.css.viewports import Edge, Viewports
from sarvel.core.layout.audience import STEP

NARROWEST, WIDEST = 240, 3840
"""The CSS px, across and down, between which visitors are served whom no table lists: our choice. Below are watches, and the
smallest windows that desktops allow; 3840 is the largest screen in common use, at density 1."""

SHARE = 0.05
"""The share of all visits that counts as unlisted: our choice. A ladder costs the listed visits hardly
anything by it, and has its rungs where windows of any width need them."""

_BESIDE = 0.01  # CSS px next to a breakpoint: windows of zoomed pages have widths between whole px

FINE = 1.04
"""The ratio of neighbouring widths, heights and densities where a layout depends on more than widths: less than softness is
allowed."""

_ANY_HEIGHT = 800.0  # CSS px, where a layout does not depend on it


def viewports_of(sets: Iterable[Viewports], *, tall: bool) -> list[tuple[float, float]]:
    """Widths and heights of viewports, CSS px: STEP apart, and at both ends of every range of some sets.

    What a layout says changes from one range to the next, so the most and the least that is needed lie at their ends.

    Args:
        sets: the widths on which conditions of the layout can hold, or fail.
        tall: whether it depends on heights too; then each side is FINE times the one before.
    """
    ends = {end for one in sets for start, stop in one.spans for end in (_first(start), _last(stop))}
    inner = {min(max(end, float(NARROWEST)), float(WIDEST)) for end in ends}
    if not tall:
        widths = {*map(float, range(NARROWEST, WIDEST + 1, STEP)), *inner}
        return [(width, _ANY_HEIGHT) for width in sorted(widths)]
    count = math.ceil(math.log(WIDEST / NARROWEST, FINE))
    sides = [WIDEST / FINE**i for i in range(count)] + [float(NARROWEST)]
    return [(width, height) for width in sorted({*sides, *inner}) for height in reversed(sides)]


def _first(start: Edge) -> float:
    return start[0] + _BESIDE * start[1]


def _last(stop: Edge) -> float:
    return stop[0] - _BESIDE * (1 - stop[1])
