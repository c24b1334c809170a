"""Breakpoints and the bands between them."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass


@dataclass(frozen=True)
class Band:
    """A range of viewport widths, from one named breakpoint up to the next.

    Attributes:
        start: first viewport width that belongs to it, CSS px.
        end: first viewport width that no longer does; infinity for the last band.
    """

    name: str
    start: float
    end: float = math.inf

    @property
    def media(self) -> str:
        """The condition that starts this band, as CSS writes it; empty where the band begins at 0."""
        return f"(min-width: {self.start:g}px)" if self.start else ""

    def __contains__(self, viewport: float) -> bool:
        return self.start <= viewport < self.end


def bands_from(breakpoints: Mapping[str, float], named: Iterable[str]) -> tuple[Band, ...]:
    """The bands that begin at the named breakpoints, narrowest first: each holds up to the next one named.

    Args:
        breakpoints: where each breakpoint begins, CSS px, by name.
        named: names of breakpoints, in any order, at least one.
    """
    starts = sorted((breakpoints[name], name) for name in named)
    ends = [start for start, _ in starts[1:]] + [math.inf]
    return tuple(Band(name, start, end) for (start, name), end in zip(starts, ends, strict=True))
