"""Amounts in words, the same in all output."""

from __future__ import annotations

import math
from collections.abc import Sequence


def percent(share: float) -> str:
    """A share in whole percent, rounded down: 99.6 % saved is not all."""
    return f"{math.floor(share * 100)}%"


def weight(count: float) -> str:
    """A number of bytes in kB or MB of 1000, as network panels count."""
    if count >= 999_500:
        return f"{count / 1e6:.1f} MB"
    return f"{count / 1e3:.0f} kB" if count >= 9_950 else f"{count / 1e3:.1f} kB"


def duration(seconds: float) -> str:
    """A time as people state it, such as 12 s or 3 min."""
    whole = max(1, round(seconds))
    return f"{whole} s" if whole < 120 else f"{seconds / 60:.0f} min"


def counted(number: int, what: str) -> str:
    """`1 page`, `2 pages`."""
    return f"{number} {what}{'' if number == 1 else 's'}"


def listed(names: Sequence[str], most: int = 3) -> str:
    """The first names, and how many more there are."""
    more = len(names) - most
    return ", ".join(names[:most]) + (f" and {more} more" if more > 0 else "")
