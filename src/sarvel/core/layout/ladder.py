"""Ladders: the pixel widths at which one cut is made.

The optimum: docs/inside.md, "Ladder". A device that needs n px and gets w ≥ n costs b(w) = w^g bytes. Some
optimal ladder has all its rungs at demands, since a rung between two demands can go down to the lower one. So it is a
cheapest way along the sorted demands in at most R steps, and a step from demand i to j costs share(i..j] · b(j).
"""

from __future__ import annotations

import bisect
import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import accumulate

GROWTH = 1.7
"""The exponent of the growth of bytes with width, b(w) = w^1.7: near what photographs come to in all formats."""

DENSEST = 2.0
"""The density up to which images are made sharp where nobody says otherwise: docs/inside.md, "Densities"."""

_WORTH = 0.001
"""The share of expected bytes that a further file must spare to be worth making: our choice."""

_MOST_RUNGS = 64  # of a ladder that is to keep its excess small: hundreds of files a picture are a slip of the plan

_LEAST_FALL = 1e-12  # a further rung that spares less than this is only rounding


@dataclass(frozen=True)
class Ladder:
    """The widths of one cut, and what they cost.

    Attributes:
        widths: px, ascending.
        excess: expected bytes over those of files that fit every device exactly, as a share: 0.05 is 5 % more.
        one_for_all: the same for the widest file alone.
        even: the same for as many widths evenly spread from the least demand to the greatest.
    """

    widths: tuple[int, ...]
    excess: float
    one_for_all: float
    even: float


def demand(shown: float, dpr: float, densities: Iterable[float]) -> int:
    """The px across that a device needs: docs/inside.md, "Demand".

    Args:
        shown: shown width on the device, CSS px.
        dpr: the device's pixel density.
        densities: densities that the slot is made sharp for; denser screens are served as the largest of them.
    """
    # A hair is taken off before rounding up, so that 384.0000000001, a product of binary fractions, asks for 384.
    return max(1, math.ceil(shown * min(dpr, max(densities)) - 1e-6))


def ladder(shares: Mapping[int, float], widths: Sequence[int], growth: float = GROWTH) -> Ladder:
    """A ladder of given widths, with its costs for given demands.

    Args:
        shares: the share of devices by the pixels that they need; none needs more than the widest rung gives.
        widths: px, ascending, at least one.
        growth: g of b(w) = w^g.
    """
    return Ladder(
        widths=tuple(widths),
        excess=excess(shares, widths, growth),
        one_for_all=excess(shares, widths[-1:], growth),
        even=excess(shares, even_spread(shares, len(widths)), growth),
    )


def excess(shares: Mapping[int, float], widths: Sequence[int], growth: float = GROWTH) -> float:
    """Expected bytes over those of exactly fitting files, as a share; greater demands get the widest file."""
    exact = got = 0.0
    for need, share in shares.items():
        fit = widths[min(bisect.bisect_left(widths, need), len(widths) - 1)]
        exact += share * min(need, widths[-1]) ** growth
        got += share * fit**growth
    return got / exact - 1


def optimal(shares: Mapping[int, float], rungs: int, growth: float = GROWTH) -> tuple[int, ...]:
    """The widths, at most `rungs`, of least expected bytes: exact. The greatest demand is among them.

    Args:
        shares: the share of devices, > 0, by the pixels that they need; at least one.
        rungs: how many widths at most, >= 1.
        growth: g of b(w) = w^g, > 0.

    Returns:
        Widths in px, ascending; fewer than `rungs` only where more would spare nothing.
    """
    *_, last = _ladders(shares, rungs, growth)
    return last


def worthwhile(shares: Mapping[int, float], rungs: int, growth: float = GROWTH) -> tuple[int, ...]:
    """The fewest widths that cost hardly more than the optimal ladder of at most `rungs`.

    Two devices that need 1080 and 1082 px would else have a file each, for a thousandth of the bytes.
    """
    best = excess(shares, optimal(shares, rungs, growth), growth)
    return within(shares, best + _WORTH, growth)


def within(shares: Mapping[int, float], most: float, growth: float = GROWTH) -> tuple[int, ...]:
    """The optimal ladder of fewest rungs whose excess is at most `most`, a share >= 0; the longest one if none is."""
    widths: tuple[int, ...] = ()
    for widths in _ladders(shares, _MOST_RUNGS, growth):
        if excess(shares, widths, growth) <= most + 1e-9:
            break
    return widths


def _ladders(shares: Mapping[int, float], rungs: int, growth: float) -> Iterator[tuple[int, ...]]:
    """The optimal ladders of 1, 2, … rungs, each worked out as it is asked for."""
    needs = sorted(shares)
    sums = [0.0, *accumulate(shares[need] for need in needs)]
    bytes_ = [need**growth for need in needs]
    cost = [sums[j + 1] * bytes_[j] for j in range(len(needs))]  # of serving demands 0..j with one rung, at j
    before: list[list[int]] = [[-1] * len(needs)]
    yield (needs[-1],)
    for _ in range(1, min(rungs, len(needs))):
        further, came = _one_more(cost, sums, bytes_)
        if further[-1] > cost[-1] * (1 - _LEAST_FALL):
            return
        cost = further
        before.append(came)
        yield tuple(needs[j] for j in _way_back(before))


def _one_more(cost: list[float], sums: list[float], bytes_: list[float]) -> tuple[list[float], list[int]]:
    """The costs of one rung more, and the rung before the last, for every last rung j.

    cost'(j) = min over i < j of cost(i) + (sums(j+1) − sums(i+1)) · b(j). For each i that is a line in b(j); slopes fall
    with i and b rises with j, so the lowest line is found by moving along their lower hull (the "convex hull trick").
    """
    further, came = [cost[0]], [-1]
    hull: list[int] = []
    at = 0

    def beaten(low: int, middle: int, high: int) -> bool:
        """Tells whether the middle one of three lines of falling slope is nowhere lowest."""
        left = (cost[middle] - cost[low]) * (sums[high + 1] - sums[middle + 1])
        right = (cost[high] - cost[middle]) * (sums[middle + 1] - sums[low + 1])
        return left >= right

    for j in range(1, len(bytes_)):
        while len(hull) >= 2 and beaten(hull[-2], hull[-1], j - 1):
            hull.pop()
        hull.append(j - 1)
        at = min(at, len(hull) - 1)

        def value(place: int, j: int = j) -> float:
            i = hull[place]
            return cost[i] + (sums[j + 1] - sums[i + 1]) * bytes_[j]

        while at + 1 < len(hull) and value(at + 1) <= value(at):
            at += 1
        further.append(value(at))
        came.append(hull[at])
    return further, came


def _way_back(before: list[list[int]]) -> list[int]:
    """The rungs of the last ladder, by place among the demands, ascending."""
    places = [len(before[0]) - 1]
    for came in reversed(before[1:]):
        if came[places[-1]] < 0:
            break
        places.append(came[places[-1]])
    return places[::-1]


def even_spread(demands: Iterable[int], rungs: int) -> tuple[int, ...]:
    """At most `rungs` widths, px, evenly spread from the least demand to the greatest, as people choose by hand."""
    wanted = sorted(set(demands))
    least, most = wanted[0], wanted[-1]
    if rungs == 1 or least == most:
        return (most,)
    return tuple(sorted({math.ceil(least + (most - least) * i / (rungs - 1)) for i in range(rungs)}))


def by_hand(widths: Iterable[int], limit: int) -> tuple[int, ...]:
    """The plan's own widths; those over `limit` become one rung at `limit`, since nothing is ever enlarged."""
    return tuple(sorted({min(width, limit) for width in widths}))
