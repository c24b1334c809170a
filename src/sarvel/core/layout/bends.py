"""Bends of a measured width: the viewports to look at next, until each place where it bends or jumps is known to the pixel.

Layouts give most boxes a width that is linear in the viewport's, between places where a rule begins or another length becomes the
least. So where three neighbours lie on a line, nothing is looked for between them.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Mapping, Sequence
from typing import TypeAlias

NARROWEST, WIDEST = 240, 3840
"""Viewport widths that are measured, CSS px: from narrower than any phone to the widest desktop."""

Widths: TypeAlias = Mapping[int, float | None]
"""Measured widths, CSS px, by viewport width, CSS px; None where nothing is shown."""

CLOSE = 0.08
"""Distance from a line, CSS px, that counts as zero: browsers lay out in steps of 1/64 px, and each nested box rounds once."""

# After so many looks a width is no chain of lines, such as whole px in tables; half a pixel asks for no other file.
_MANY, _LOOSE = 150, 0.5

COMMON = (NARROWEST, 360, 480, 640, 768, 1024, 1440, 1920, WIDEST)
"""Viewport widths that every page is looked at on, so that pages can be compared, CSS px."""

_STEP = (
    1.3  # greatest ratio of neighbours at the first look; finds bends without a media query, such as those of columns
)


def first_looks(breakpoints: Iterable[float] = ()) -> list[int]:
    """The viewport widths to begin with, CSS px, in order: at both sides of known breakpoints, and a few between them.

    Args:
        breakpoints: viewport widths where some rule begins, CSS px.
    """
    sides = {side for start in breakpoints for side in (math.ceil(start) - 1, math.ceil(start))}
    ends = {one for one in sides if NARROWEST <= one <= WIDEST}
    found = {*ends, *COMMON}
    for left, right in itertools.pairwise(sorted(found)):
        is_whole = (
            left in ends and right in ends
        )  # a piece between two breakpoints: its middle shows whether it is straight
        parts = max(2 if is_whole else 1, math.ceil(math.log(right / left, _STEP)))
        found |= {round(left * (right / left) ** (part / parts)) for part in range(1, parts)}
    return sorted(found)


def closer_looks(seen: Widths) -> list[int]:
    """The viewport widths to look at next, CSS px, in order; none if every bend is known to the pixel."""
    close = CLOSE if len(seen) < _MANY else _LOOSE
    at = sorted(seen)
    looks: set[int] = set()
    for i, (left, right) in enumerate(itertools.pairwise(at)):
        if right - left < 2 or (seen[left] is None and seen[right] is None):
            continue
        if seen[left] is None or seen[right] is None:
            looks.add((left + right) // 2)
            continue
        before = _points(seen, at[max(0, i - 1) : i + 1])
        behind = _points(seen, at[i + 1 : i + 3])
        if not _explained(before, behind, close):
            crossing = _crossing(before, behind)
            is_between = crossing is not None and left < crossing < right
            looks |= {math.floor(crossing), math.ceil(crossing)} if is_between and crossing else set()
            looks.add((left + right) // 2)  # also behind a crossing: lines may meet where something else begins
    return sorted(looks - seen.keys())


_Point: TypeAlias = tuple[int, float]


def _points(seen: Widths, at: Iterable[int]) -> list[_Point]:
    return [(one, width) for one in at if (width := seen[one]) is not None]


def _explained(before: Sequence[_Point], behind: Sequence[_Point], close: float) -> bool:
    """Tells whether a line through two points on one side meets the nearest on the other; with too few, whether it is flat."""
    (last, first) = (before[-1], behind[0])
    if len(before) == 2 and abs(_on_line(before, first[0]) - first[1]) <= close:
        return True
    if len(behind) == 2 and abs(_on_line(behind, last[0]) - last[1]) <= close:
        return True
    return len(before) < 2 and len(behind) < 2 and abs(last[1] - first[1]) <= close


def _on_line(two: Sequence[_Point], at: float) -> float:
    (x, y), (x2, y2) = two
    return y + (y2 - y) * (at - x) / (x2 - x)


def _crossing(before: Sequence[_Point], behind: Sequence[_Point]) -> float | None:
    """The viewport width where the lines through two points on each side meet; None if they do not."""
    if len(before) < 2 or len(behind) < 2:
        return None
    (x, y), (x2, y2) = before
    (u, z), (u2, z2) = behind
    slope, other = (y2 - y) / (x2 - x), (z2 - z) / (u2 - u)
    if abs(slope - other) < 1e-4:
        return None
    return (z - other * u - y + slope * x) / (slope - other)
