"""The audience: viewports and densities that a site is visited with, and the share of visits of each."""

from __future__ import annotations

import bisect
import math
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from sarvel.core.css.device import Device

STEP = 16
"""CSS px between the viewports that a range is counted at: our choice. Shown widths hardly bend within so little, and rungs lie
further apart."""


@dataclass(frozen=True)
class Visits:
    """Visits of one kind: on one viewport, or on viewports of a range, all of them the same often.

    Attributes:
        device: the viewport and the density; of a range the narrowest viewport.
        share: its share of visits, > 0; the shares of an audience need not add up to anything.
        until: the widest viewport of the range, CSS px, more than the device's width; None for one viewport.
        reads: formats with the share of these visits that read them, where the audience tells.
    """

    device: Device
    share: float
    label: str
    until: float | None = None
    reads: tuple[tuple[str, float], ...] = ()

    def __str__(self) -> str:
        """`390x844@3`, or `1024-1920x900@1` for a range."""
        said = str(self.device)
        return said if self.until is None else f"{self.device.width:g}-{self.until:g}{said[said.index('x') :]}"

    def ends(self) -> tuple[Visits, ...]:
        """The narrowest and the widest viewport, each with half of the share; of one viewport itself."""
        return (self,) if self.until is None else self._at([self.device.width, self.until])

    def spread(self) -> tuple[Visits, ...]:
        """Viewports of the range that are STEP apart, and its widest, with equal parts of the share."""
        if self.until is None:
            return (self,)
        count = int((self.until - self.device.width) // STEP) + 1
        widths = [self.device.width + STEP * i for i in range(count)]
        return self._at(widths if widths[-1] == self.until else [*widths, self.until])

    def _at(self, widths: Sequence[float]) -> tuple[Visits, ...]:
        share = self.share / len(widths)
        return tuple(Visits(replace(self.device, width=width), share, self.label) for width in widths)


def reads_of(audience: Iterable[Visits]) -> dict[str, float]:
    """The share of visits that read each format, of those visits whose row tells."""
    told: dict[str, list[tuple[float, float]]] = {}
    for one in audience:
        for name, share in one.reads:
            told.setdefault(name, []).append((one.share, one.share * share))
    return {name: sum(reading for _, reading in rows) / sum(all_ for all_, _ in rows) for name, rows in told.items()}


def ends_of(audience: Iterable[Visits]) -> tuple[Visits, ...]:
    """Single viewports of an audience: of every range both ends."""
    return tuple(end for visits in audience for end in visits.ends())


def spread_of(audience: Iterable[Visits]) -> tuple[Visits, ...]:
    """Single viewports of an audience, ranges spread out."""
    return tuple(one for visits in audience for one in visits.spread())


MANY = 64
"""Viewports of an audience that pages are looked at on, at most: exports have thousands, and hardly more is learned from them."""


def busiest(audience: Iterable[Visits], most: int = MANY) -> tuple[Visits, ...]:
    """The single viewports to look at first: the narrowest, the widest, and those of most visits; by width.

    Args:
        most: how many at most, >= 2.
    """
    by_width = sorted(ends_of(audience), key=lambda one: (one.device.width, one.device.dpr))
    if len(by_width) <= most:
        return tuple(by_width)
    most_visited = sorted(range(1, len(by_width) - 1), key=lambda i: -by_width[i].share)[: most - 2]
    return tuple(by_width[i] for i in sorted({0, *most_visited, len(by_width) - 1}))


_SIZES = (600, 900, 1300, 1800)  # CSS px: where phones, tablets, small and large windows part


def diverse(audience: Iterable[Visits], starts: Iterable[float], most: int) -> tuple[Visits, ...]:
    """Single viewports that differ most: in the band of the layout, in size, in density; of like ones the most visited; by width.

    Args:
        starts: where bands of the layout begin, CSS px.
        most: how many at most.
    """
    edges = sorted({*starts, *_SIZES})
    left, chosen = list(ends_of(audience)), list[Visits]()

    def band(one: Visits) -> int:
        return bisect.bisect_right(edges, one.device.width)

    while left and len(chosen) < most:
        bands, densities = Counter(map(band, chosen)), {math.ceil(one.device.dpr) for one in chosen}
        best = max(left, key=lambda one: (-bands[band(one)], math.ceil(one.device.dpr) not in densities, one.share))
        left.remove(best)
        chosen.append(best)
    return tuple(sorted(chosen, key=lambda one: (one.device.width, one.device.dpr)))


def _phones(rows: Iterable[tuple[int, int, float, float]]) -> tuple[Visits, ...]:
    """Phones upright, and for a tenth of their visits on their side."""
    upright = [Visits(Device(width, height, density), share * 0.9, "phone") for width, height, density, share in rows]
    lying = [
        Visits(Device(one.device.height, one.device.width, one.device.dpr), one.share / 9, "phone on its side")
        for one in upright
    ]
    return (*upright, *lying)


# An assumption of ours, and no measurement of anybody's visitors: a site that is read as much on phones as on desks. Phones are
# at the CSS widths that phones have, with their densities. Tablets and windows on desks can be of any width, and are as ranges.
# To be replaced by the site's own numbers as soon as there are any.
BUILT_IN: tuple[Visits, ...] = (
    *_phones(
        [
            (320, 568, 2, 1),
            (353, 745, 3, 2),
            (360, 780, 3, 10),
            (375, 667, 2, 3),
            (375, 812, 3, 3),
            (384, 832, 2.8125, 4),
            (390, 844, 3, 9),
            (393, 852, 3, 8),
            (402, 874, 3, 3),
            (412, 915, 2.625, 8),
            (414, 896, 2, 2),
            (428, 926, 3, 1),
            (430, 932, 3, 3),
            (440, 956, 3, 2),
        ]
    ),
    Visits(Device(744, 1080, 2), 4, "upright tablet", 834),
    Visits(Device(1024, 768, 2), 3, "tablet on its side", 1210),
    Visits(Device(640, 800, 1), 2, "narrow window", 1024),
    Visits(Device(1024, 720, 1), 8, "window", 1440),
    Visits(Device(1200, 720, 1.5), 5, "window", 1440),
    Visits(Device(1280, 800, 2), 8, "window", 1728),
    Visits(Device(1440, 800, 1.25), 4, "window", 1536),
    Visits(Device(1440, 900, 1), 7, "wide window", 1920),
    Visits(Device(1728, 1000, 2), 2, "wide window", 1920),
    Visits(Device(1920, 1200, 1), 2, "widest window", 2560),
)
