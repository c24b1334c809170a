"""The encoder's number that a picture commonly needs: where the search for the right one begins."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TypeAlias

Texture: TypeAlias = tuple[float, float, float]
"""How busy a picture is, from fine to coarse, as `Reference.texture` tells it."""

USUAL: Texture = (3.5, 4.3, 5.2)
"""The mean of photographs at 320 px; bench/first_number.py."""

_LIKENESS = 93.0  # that `number` is for


@dataclass(frozen=True)
class Typical:
    """The numbers of a format, as bench/first_number.py fits them to photographs that no one here made.

    The distance of a number from 100 is about a power of the likeness's distance, and is the less, the busier a picture is in
    its finest detail.

    Attributes:
        number: with which a photograph of usual texture reaches a likeness of 93, below 100.
        power: of what the likeness lacks, above 0.
        by_texture: the addition to the logarithm of 100 minus the number, for each unit that the picture is busier than
            usual, at each scale.
    """

    number: float
    power: float
    by_texture: Texture = (0.0, 0.0, 0.0)

    def at(self, likeness: float, texture: Texture = USUAL) -> float:
        """The number that a picture commonly needs for a likeness below 100; it may lie below what an encoder takes."""
        busier = sum(by * (mine - usual) for by, mine, usual in zip(self.by_texture, texture, USUAL, strict=True))
        way = (100 - likeness) / (100 - _LIKENESS)
        return 100 - (100 - self.number) * math.pow(way, self.power) * math.exp(busier)
