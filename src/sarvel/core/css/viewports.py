"""Sets of viewport widths: on which widths a media condition can hold, and what several leave over."""

from __future__ import annotations

import functools
import math
import operator
from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise
from typing import TypeAlias

# A cut through the widths: just before a width (…, 0), or just behind it (…, 1). So 640 and up is from (640, 0), and more
# than 640 is from (640, 1); no width is nearly equal to another.
Edge: TypeAlias = tuple[float, int]

_START: Edge = (0.0, 0)
_END: Edge = (math.inf, 0)


@dataclass(frozen=True)
class Viewports:
    """A set of viewport widths, CSS px, from 0 up.

    Attributes:
        spans: ranges in order, each from an edge to an edge, none touching another.
    """

    spans: tuple[tuple[Edge, Edge], ...]

    def __and__(self, other: Viewports) -> Viewports:
        return _where(self, other, operator.and_)

    def __or__(self, other: Viewports) -> Viewports:
        return _where(self, other, operator.or_)

    def __sub__(self, other: Viewports) -> Viewports:
        return _where(self, other, operator.gt)

    def __bool__(self) -> bool:
        return bool(self.spans)

    def __contains__(self, width: float) -> bool:
        return any(start <= (width, 0) < end for start, end in self.spans)

    def __str__(self) -> str:
        """`640 px and up`, `up to 639 px and 1024 px and up`: whole px, as people speak of viewports."""
        if self == EVERY:
            return "every width"
        return " and ".join(_span_in_words(*span) for span in self.spans) or "no width"

    def whole(self) -> Viewports:
        """The set without spans that hold no whole px, such as a gap between 639 and 640 px."""
        return Viewports(tuple(span for span in self.spans if _first(span[0]) <= _last(span[1])))

    @property
    def least(self) -> float:
        """The start of the set, CSS px; infinity for an empty set."""
        return self.spans[0][0][0] if self.spans else math.inf


def between(start: Edge, end: Edge) -> Viewports:
    """The widths from an edge to an edge; none if there are none between."""
    start = max(start, _START)
    return Viewports(((start, end),) if start < end else ())


def at_least(width: float) -> Viewports:
    """This width and all wider."""
    return between((width, 0), _END)


def more_than(width: float) -> Viewports:
    """All that are wider than this."""
    return between((width, 1), _END)


EVERY = between(_START, _END)
NONE = Viewports(())


@functools.lru_cache(maxsize=4096)
def _where(one: Viewports, other: Viewports, wanted: Callable[[bool, bool], bool]) -> Viewports:
    """The widths at which `wanted` holds for membership in the two sets."""
    edges = sorted({_START, _END, *(edge for span in (*one.spans, *other.spans) for edge in span)})
    spans: list[tuple[Edge, Edge]] = []
    for start, end in pairwise(edges):
        if wanted(_covers(one, start), _covers(other, start)):
            if spans and spans[-1][1] == start:
                spans[-1] = (spans[-1][0], end)
            else:
                spans.append((start, end))
    return Viewports(tuple(spans))


def _covers(one: Viewports, edge: Edge) -> bool:
    return any(start <= edge < end for start, end in one.spans)


def _first(start: Edge) -> float:
    """The first whole px behind an edge."""
    return math.ceil(start[0]) if start[1] == 0 else math.floor(start[0]) + 1


def _last(end: Edge) -> float:
    """The last whole px before an edge."""
    return math.inf if end == _END else math.floor(end[0]) if end[1] == 1 else math.ceil(end[0]) - 1


def _span_in_words(start: Edge, end: Edge) -> str:
    first, last = _first(start), _last(end)
    if last == math.inf:
        return f"{first:g} px and up"
    return f"up to {last:g} px" if first == 0 else f"{first:g} to {last:g} px" if first != last else f"{first:g} px"
