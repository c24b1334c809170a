"""Expected bytes: their size, their growth, their finish."""

import pytest

from sarvel.core.edition.expected import expected_bytes
from sarvel.core.layout.growth import bits_of, growth_of
from sarvel.core.model import Finish


@pytest.mark.parametrize("name", ["avif", "jpeg"])
def test_bytes_are_those_that_were_measured_at_800_px_and_grow_from_there(name: str) -> None:
    one, other = (expected_bytes(name, (width, width // 2), Finish(), drawn=False) for width in (800, 1600))
    assert one == pytest.approx(bits_of(name, drawn=False) / 8 * 800 * 400)
    assert other / one == pytest.approx(2 ** growth_of(name, drawn=False))
    assert expected_bytes(name, (800, 400), Finish("fine", 95.0), drawn=False) == pytest.approx(1.21 * one)
