"""A forecast of the bytes of files that are not made yet."""

from __future__ import annotations

from sarvel.core.edition.compose import Crop
from sarvel.core.edition.rendition import Rendition
from sarvel.core.layout.growth import bits_of, growth_of
from sarvel.core.model import FINISHES

_AT = 800  # px across, where bits a pixel were measured
_LIKENESS_STEP = 0.1  # of the bytes for each point of likeness: see FINISHES


def expected_bytes(crop: Crop, rendition: Rendition) -> int:
    """Expected bytes of a file, by its size, its format and the kind of its picture; single pictures differ twofold."""
    drawn, finish = crop.drawn, crop.met.slot.finish
    at_middle = bits_of(rendition.format, drawn=drawn) / 8 * _AT * _AT * rendition.height / rendition.width
    size: float = at_middle * (rendition.width / _AT) ** growth_of(rendition.format, drawn=drawn)
    return round(size * float((1 + _LIKENESS_STEP) ** (finish.likeness - FINISHES["standard"])))
