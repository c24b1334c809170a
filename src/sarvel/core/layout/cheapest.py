"""The cheapest ladders for given demands, found exactly: docs/inside.md, "Ladder".

A device that needs n px and gets w ≥ n fetches b(w) = w^g bytes, and each rung costs λ·b(w) to make and to keep, and τ to name in
pages. Rungs lie at demands, because a rung between two demands can go down to the lower one. So a ladder is a way along the
sorted demands, and a step from demand i to j costs (share(i..j] + λ)·b(j) + τ.
"""

from __future__ import annotations

import bisect
import math
from collections.abc import Iterator, Mapping, Sequence
from itertools import accumulate

APART = 1.08
"""The least ratio of neighbouring widths: our choice. Of two files that differ by less, bytes differ by about an eighth, and
no one sees which one is shown."""


class Ways:
    """The cheapest ways along some demands, by the number of rungs; each number is worked out once for all masters."""

    def __init__(
        self,
        shares: Mapping[int, float],
        growth: float,
        kept: float = 0.0,
        waste: float = math.inf,
        named: float = 0.0,
    ) -> None:
        """Takes the terms.

        Args:
            shares: the share of devices, > 0, by the pixels that they need; at least one.
            growth: g of b(w) = w^g, > 0.
            kept: λ, the cost of a file's bytes as a share of what one visit with its bytes costs, >= 0.
            waste: how many times the px that a device needs its file may be wide at most, > 1.
            named: τ, the cost of naming a file, in the unit of b, >= 0.
        """
        total = sum(shares.values())
        self._needs = sorted(shares)
        self._sums = [0.0, *accumulate(shares[need] / total for need in self._needs)]
        self._bytes = [float(need**growth) for need in self._needs]
        self._growth, self._kept, self._waste, self._named = growth, kept, waste, named
        self._reach = [self._before(need) for need in self._needs]
        first = [(self._sums[j + 1] + kept) * self._bytes[j] + named for j in range(len(self._needs))]
        self._costs = [
            [cost if self._fits(0, need) else math.inf for cost, need in zip(first, self._needs, strict=True)]
        ]
        self._came: list[list[int]] = [[-1] * len(self._needs)]

    def ladders(self, tops: Sequence[int], most: int) -> Iterator[tuple[float, tuple[int, ...]]]:
        """The cheapest ladders of 1, 2, … rungs, each with its cost; a number of rungs that no ladder can have is left out.

        Args:
            tops: the widths, px, that the widest rung may have; devices that need more get the widest.
        """
        for count in range(1, most + 1):
            found = min(self._with_top(top, count) for top in tops)
            if found[0] < math.inf:
                yield found

    def _with_top(self, top: int, count: int) -> tuple[float, tuple[int, ...]]:
        """The cheapest ladder of so many rungs with this one as the widest, and its cost."""
        weight = float(top**self._growth)
        if count == 1:
            return ((1 + self._kept) * weight + self._named if self._fits(0, top) else math.inf), (top,)
        below = self._layer(count - 1)
        low, high = self._before(top)
        steps = ((below[i] + (1 - self._sums[i + 1] + self._kept) * weight, i) for i in range(low, high + 1))
        cost, at = min(steps, default=(math.inf, -1))
        cost += self._named
        return cost, (*self._way_to(at, count - 1), top) if cost < math.inf else ()

    def _fits(self, i: int, width: int) -> bool:
        """Tells whether a file of this width is no waste to demand i."""
        return width <= self._waste * self._needs[i] + 1e-9

    def _before(self, width: int) -> tuple[int, int]:
        """The first and the last demand at which the rung before one of this width may lie; the first is greater for none."""
        high = bisect.bisect_right(self._needs, width / APART + 1e-9) - 1
        low = bisect.bisect_left(self._needs, width / self._waste - 1e-9) - 1
        return max(low, 0), high

    def _layer(self, count: int) -> list[float]:
        """The costs of serving all up to each demand with so many rungs, the last of them at that demand."""
        while len(self._costs) < count:
            costs, came = self._one_more(self._costs[-1])
            self._costs.append(costs)
            self._came.append(came)
        return self._costs[count - 1]

    def _one_more(self, below: list[float]) -> tuple[list[float], list[int]]:
        """The costs with one rung more, and the demand of the rung before, for each demand.

        The costs of steps are Monge, for shares add up and bytes rise; so the best rung before does not go back as the last
        one goes on, and halving the demands halves the rungs to try (Galil and Park, "Dynamic programming with convexity,
        concavity and sparsity", 1992, section 2).
        """
        costs, came = [math.inf] * len(below), [-1] * len(below)
        halves = [(0, len(below) - 1, 0, len(below) - 1)]
        while halves:
            start, end, left, right = halves.pop()
            if start > end:
                continue
            j = (start + end) // 2
            low, high = self._reach[j]
            weight, upto = self._bytes[j], self._sums[j + 1] + self._kept
            for i in range(max(low, left), min(high, right) + 1):
                cost = below[i] + (upto - self._sums[i + 1]) * weight + self._named
                if cost < costs[j]:
                    costs[j], came[j] = cost, i
            at = came[j]
            halves += [(start, j - 1, left, at if at >= 0 else right), (j + 1, end, max(at, left), right)]
        return costs, came

    def _way_to(self, at: int, count: int) -> tuple[int, ...]:
        """The rungs of the cheapest way to a demand, ascending, px."""
        rungs = []
        for came in self._came[count - 1 :: -1]:
            rungs.append(self._needs[at])
            at = came[at]
        return tuple(reversed(rungs))
