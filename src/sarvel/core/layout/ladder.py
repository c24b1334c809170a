"""Ladders: the pixel widths at which one crop is made, and how well they fit who meets it."""

from __future__ import annotations

import bisect
import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from sarvel.core.layout.cheapest import Ways

DENSEST = 2.0
"""The default of the greatest density for which images are sharp: docs/inside.md, "Densities"."""

SOFT = 0.05
"""The default of the share of the pixels across that an unlisted visitor may lack."""

WASTE = 1.75
"""How many times the pixels across that a device needs are a waste: three times the pixels in all. Our choice."""

_BOUNDS = (WASTE, 2.0, 2.5, 3.0, 4.0)  # of waste, from the one that is wanted to one that is better than none
_PRICE = 0.01  # of the expected cost: the most that keeping everyone within such a bound may add; our choice

VISITS = 500
"""The visits on which a width spares at least the bytes of its own file, or it is not worth making: our choice."""

MOST_RUNGS = 20
"""The most rungs of a ladder: more are a slip of the plan."""


@dataclass(frozen=True)
class Fitness:
    """The fit of some widths to those who meet a crop.

    Attributes:
        fetched: the expected w^g of the file that a visit fetches, w in px.
        excess: the same over that of files that fit everyone exactly, as a share: 0.05 is 5 % more.
        waste: how many times the pixels across someone gets that are needed, in the worst case; >= 1.
        wasteful: the px that its visitor needs.
    """

    fetched: float
    excess: float
    waste: float
    wasteful: int


@dataclass(frozen=True)
class Ladder:
    """The widths of one crop.

    Attributes:
        widths: px, ascending.
        even: how well as many widths would, evenly spread from the least demand to the greatest, as people choose by hand.
        one_for_all: how well the widest file alone would.
    """

    widths: tuple[int, ...]
    fitness: Fitness
    even: Fitness
    one_for_all: Fitness


def demand(shown: float, dpr: float, densities: Iterable[float]) -> int:
    """The px across that a device needs: docs/inside.md, "Demand".

    Args:
        shown: shown width on the device, CSS px.
        densities: densities that the slot is made sharp for; denser screens are served as the largest of them.
    """
    # A hair is taken off before rounding up, so that 384.0000000001, a product of binary fractions, asks for 384.
    return max(1, math.ceil(shown * min(dpr, max(densities)) - 1e-6))


def ladder(shares: Mapping[int, float], widths: Sequence[int], growth: float) -> Ladder:
    """A ladder of given widths, and how well it fits given demands.

    Args:
        shares: the share of devices, > 0, by the pixels that they need.
        widths: px, ascending, at least one.
        growth: g of b(w) = w^g.
    """
    least, most = min(shares), min(max(shares), widths[-1])
    return Ladder(
        widths=tuple(widths),
        fitness=fitness(shares, widths, growth),
        even=fitness(shares, even_spread(min(least, most), most, len(widths)), growth),
        one_for_all=fitness(shares, widths[-1:], growth),
    )


def fitness(shares: Mapping[int, float], widths: Sequence[int], growth: float) -> Fitness:
    """The fit of some widths, ascending, to demands; greater needs get the widest, and count as fitted exactly."""
    exact = got = 0.0
    waste, wasteful = 1.0, widths[-1]
    for need, share in shares.items():
        fit = widths[min(bisect.bisect_left(widths, need), len(widths) - 1)]
        exact += share * min(need, widths[-1]) ** growth
        got += share * fit**growth
        if fit / need > waste:
            waste, wasteful = fit / need, need
    return Fitness(got / sum(shares.values()), got / exact - 1, waste, wasteful)


@dataclass(frozen=True)
class Terms:
    """The terms on which widths are chosen. Costs are in shares of the visits that fetch a file of the ladder.

    Attributes:
        rungs: how many at most, >= 1.
        excess: the excess that as few as possible are to keep, a share >= 0; None counts rungs alone.
        growth: g of b(w) = w^g, > 0.
        kept: the cost of a file's bytes as a share of what one such visit with these bytes costs, >= 0.
        named: the cost of naming a file in pages, in the unit of b, >= 0.
    """

    rungs: int
    excess: float | None
    growth: float
    kept: float
    named: float = 0.0


class Chooser:
    """The choice of widths for given demands, on any master."""

    def __init__(self, shares: Mapping[int, float], terms: Terms) -> None:
        """Takes demands, like a Ladder, and terms."""
        self._shares, self._terms = shares, terms
        self._ways: dict[float, Ways] = {}

    def widths(self, low: int, top: int) -> tuple[int, ...]:
        """The widths of least cost, ascending, px; of widths that cost little more, the ones with least waste.

        Args:
            low: px that the widest may have at least.
            top: px that the widest may have at most, >= low: the need or the available px, whichever is less.
        """
        rungs, most = self._terms.rungs, self._terms.excess
        tops = self._tops(low, top)
        if most is not None:
            for count in range(1, MOST_RUNGS + 1):
                found = self._best(tops, count)
                if self._excess(found) <= most + 1e-9:
                    break
            return found
        return self._best(tops, rungs)

    def rungs_wanted(self, low: int, top: int) -> int | None:
        """The fewest rungs at which no one gets more than WASTE; None if not even MOST_RUNGS would do."""
        tops = self._tops(low, top)
        counts = range(1, MOST_RUNGS + 1)
        return next((count for count in counts if self._waste(self._best(tops, count)) <= WASTE), None)

    def _within(self, bound: float) -> Ways:
        """The ways on which no one gets more than so many times the px across that are needed."""
        if bound not in self._ways:
            terms = self._terms
            self._ways[bound] = Ways(self._shares, terms.growth, terms.kept, bound, terms.named)
        return self._ways[bound]

    def _tops(self, low: int, top: int) -> list[int]:
        return sorted({top, *(need for need in self._shares if low <= need < top)})

    def _best(self, tops: Sequence[int], rungs: int) -> tuple[int, ...]:
        """The widths of least cost, or those within the tightest bound of waste that costs hardly more."""
        least, plain = min(self._within(math.inf).ladders(tops, rungs))
        if self._waste(plain) <= WASTE:
            return plain
        careful = (min(self._within(bound).ladders(tops, rungs), default=(math.inf, plain)) for bound in _BOUNDS)
        return next((found for cost, found in careful if cost <= (1 + _PRICE) * least), plain)

    def _waste(self, widths: Sequence[int]) -> float:
        return fitness(self._shares, widths, self._terms.growth).waste

    def _excess(self, widths: Sequence[int]) -> float:
        return fitness(self._shares, widths, self._terms.growth).excess


def even_spread(least: int, most: int, rungs: int) -> tuple[int, ...]:
    """At most `rungs` widths, px, evenly spread from the least to the greatest, as people choose by hand."""
    if rungs == 1 or least == most:
        return (most,)
    return tuple(sorted({math.ceil(least + (most - least) * i / (rungs - 1)) for i in range(rungs)}))


def by_hand(widths: Iterable[int], limit: int) -> tuple[int, ...]:
    """The plan's own widths; those over `limit` become one rung at `limit`, since nothing is ever enlarged."""
    return tuple(sorted({min(width, limit) for width in widths}))
