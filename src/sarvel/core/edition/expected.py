"""A forecast of the bytes of files that are not made yet."""

from __future__ import annotations

from sarvel.core.edition.encoding import Size
from sarvel.core.layout.growth import bits_of, growth_of
from sarvel.core.model import FINISHES, Finish

_AT = 800  # px across, where bits a pixel were measured
_LIKENESS_STEP = 0.1  # of the bytes for each point of likeness: see FINISHES


def expected_bytes(format_: str, size: Size, finish: Finish, *, drawn: bool) -> float:
    """Expected bytes of a file; single pictures differ twofold.

    Args:
        drawn: whether the picture is flat graphics.
    """
    at_middle = bits_of(format_, drawn=drawn) / 8 * _AT * _AT * size[1] / size[0]
    grown: float = at_middle * (size[0] / _AT) ** growth_of(format_, drawn=drawn)
    return grown * float((1 + _LIKENESS_STEP) ** (finish.likeness - FINISHES["standard"]))
