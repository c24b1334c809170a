"""The choice of a candidate by its density."""

from __future__ import annotations

from collections.abc import Sequence


def select(densities: Sequence[float], dpr: float) -> int:
    """The index of the candidate that a browser fetches: docs/inside.md, "Selection".

    The smallest whose density is at least the device's, else the largest. Of equals the first, since a browser drops a
    candidate whose density an earlier one has (HTML, "normalizing the source densities" and "selecting an image source").

    Args:
        densities: of each candidate, image px for each CSS px, at least one.
        dpr: device px for each CSS px.
    """
    enough = [i for i, density in enumerate(densities) if density >= dpr]
    if enough:
        return min(enough, key=lambda i: densities[i])
    return max(range(len(densities)), key=lambda i: densities[i])
