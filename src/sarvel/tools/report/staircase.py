"""Staircase charts: the pixels that devices need, a line over the width of the viewport, against those they get, in steps."""

from __future__ import annotations

import functools
import math
from collections.abc import Callable, Iterable, Sequence
from itertools import groupby

from sarvel.core.layout.ladder import WASTE
from sarvel.tools.report.facts import Stair

_WIDE, _HIGH = 344, 168  # units of the drawing
_LEFT, _RIGHT, _TOP, _BOTTOM = 44, 8, 10, 24
_TICKS = (320, 640, 1280, 2560)  # CSS px
_SOFT = 0.005  # of the width; less is rounding

Scale = Callable[[float], float]


@functools.lru_cache(maxsize=256)  # many pictures have the same
def staircase(stair: Stair, most: int, name: str) -> str:
    """A chart as SVG, whose colors the page gives.

    Args:
        most: px at the top of the chart; the charts of one picture share it.
        name: makes ids of this chart its own.
    """
    ends = stair.viewports[0], stair.viewports[-1]

    def across(viewport: float) -> float:
        return _LEFT + (_WIDE - _LEFT - _RIGHT) * math.log(viewport / ends[0]) / math.log(ends[1] / ends[0])

    def down(px: float) -> float:
        return _TOP + (_HIGH - _TOP - _BOTTOM) * (1 - px / most)

    words = in_words(stair)
    parts = [
        f'<svg viewBox="0 0 {_WIDE} {_HIGH}" role="img" aria-labelledby="{name}">',
        f'<title id="{name}">{stair.density:g}x: {words}</title>',
        *_grid(most, across, down),
        *_areas(stair, across, down, "soft", lambda need, got: got < need * (1 - _SOFT)),
        *_areas(stair, across, down, "waste", lambda need, got: got > need * WASTE),
        f'<path class="need" d="{_line(stair.viewports, stair.needed, across, down)}"/>',
        f'<path class="got" d="{_steps(stair.viewports, stair.got, across, down)}"/>',
        "</svg>",
    ]
    return "".join(parts)


@functools.lru_cache(maxsize=256)
def in_words(stair: Stair) -> str:
    """What a chart shows, in a sentence."""
    pairs = list(zip(stair.viewports, stair.needed, stair.got, strict=True))
    soft = [(1 - got / need, width) for width, need, got in pairs if got < need * (1 - _SOFT)]
    waste = [(got / need, width) for width, need, got in pairs if got > need * WASTE]
    told = []
    if soft:
        share, width = max(soft)
        told.append(f"soft by up to {share:.0%} ({_range(soft)}, most at {width} px)")
    if waste:
        times, width = max(waste)
        told.append(f"up to {times:.1f} times the pixels across ({_range(waste)}, most at {width} px)")
    return "; ".join(told) or "sharp everywhere, nowhere wasteful"


def _range(some: Sequence[tuple[float, int]]) -> str:
    widths = [width for _, width in some]
    return f"from {min(widths)} to {max(widths)} px"


def _grid(most: int, across: Scale, down: Scale) -> Iterable[str]:
    for px in (0, most // 2, most):
        y = down(px)
        yield f'<path class="rule" d="M{_LEFT} {y:.1f}H{_WIDE - _RIGHT}"/>'
        yield f'<text x="{_LEFT - 5}" y="{y + 3.5:.1f}" text-anchor="end">{px}</text>'
    for tick in _TICKS:
        yield f'<text x="{across(tick):.1f}" y="{_HIGH - 8}" text-anchor="middle">{tick}</text>'


def _line(viewports: Sequence[int], values: Sequence[int], across: Scale, down: Scale) -> str:
    points = [f"{across(width):.1f} {down(px):.1f}" for width, px in zip(viewports, values, strict=True)]
    return "M" + "L".join(points)


def _steps(viewports: Sequence[int], values: Sequence[int], across: Scale, down: Scale) -> str:
    """A path that runs level and jumps."""
    parts = [f"M{across(viewports[0]):.1f} {down(values[0]):.1f}"]
    for width, before, px in zip(viewports[1:], values, values[1:], strict=False):
        if px != before:
            parts.append(f"H{across(width):.1f}V{down(px):.1f}")
    return "".join([*parts, f"H{across(viewports[-1]):.1f}"])


def _areas(stair: Stair, across: Scale, down: Scale, kind: str, holds: Callable[[int, int], bool]) -> Iterable[str]:
    """The areas between both lines, where something holds of them."""
    rows = list(zip(stair.viewports, stair.needed, stair.got, strict=True))
    for is_one, run in groupby(rows, lambda row: holds(row[1], row[2])):
        some = list(run)
        if is_one and len(some) > 1:
            there = [f"{across(width):.1f} {down(got):.1f}" for width, _, got in some]
            back = [f"{across(width):.1f} {down(need):.1f}" for width, need, _ in reversed(some)]
            yield f'<path class="{kind}" d="M{"L".join([*there, *back])}Z"/>'
