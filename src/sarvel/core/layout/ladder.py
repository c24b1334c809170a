"""Ladders: the pixel widths at which one cut is made."""

from __future__ import annotations

import math
from collections.abc import Iterable


def demand(shown: float, dpr: float, densities: Iterable[float]) -> int:
    """The pixels across that a device needs: design rule "Demand".

    Args:
        shown: shown width on the device, CSS px.
        dpr: the device's pixel density.
        densities: densities that the slot is made sharp for; denser screens are served as the largest of them.
    """
    # A hair is taken off before rounding up, so that 384.0000000001, a product of binary fractions, asks for 384.
    return max(1, math.ceil(shown * min(dpr, max(densities)) - 1e-6))


def even_spread(demands: Iterable[int], rungs: int, limit: int) -> tuple[int, ...]:
    """At most `rungs` widths evenly spread from the least demand to the greatest.

    Args:
        demands: pixels that devices need, at least one.
        rungs: how many widths at most, >= 1.
        limit: no width is larger, px: the cut's own width in the master, or the plan's `widest`.

    Returns:
        Widths in px, ascending, each once; the last is the greatest demand, or `limit` if that is less.
    """
    wanted = sorted({min(need, limit) for need in demands})
    least, most = wanted[0], wanted[-1]
    if len(wanted) <= rungs:
        return tuple(wanted)
    if rungs == 1:
        return (most,)
    return tuple(sorted({round(least + (most - least) * i / (rungs - 1)) for i in range(rungs)}))


def by_hand(widths: Iterable[int], limit: int) -> tuple[int, ...]:
    """The plan's own widths; those over `limit` become one rung at `limit`, since nothing is ever enlarged."""
    return tuple(sorted({min(width, limit) for width in widths}))
