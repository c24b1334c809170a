"""Expected bytes: their size, their growth, their finish."""

from dataclasses import replace

import pytest

from sarvel.core.edition.expected import expected_bytes
from sarvel.core.layout.growth import bits_of, growth_of
from sarvel.core.model import Finish
from tests.core.edition.test_compose import BANNER, only


@pytest.mark.parametrize("name", ["avif", "jpeg"])
def test_bytes_are_those_that_were_measured_at_800_px_and_grow_from_there(name: str) -> None:
    crop = only(BANNER).crops[0]
    one, other = (replace(crop.renditions[name][0], width=width, height=width // 2) for width in (800, 1600))
    assert expected_bytes(crop, one) == pytest.approx(bits_of(name, drawn=False) / 8 * 800 * 400, abs=1)
    assert expected_bytes(crop, other) / expected_bytes(crop, one) == pytest.approx(
        2 ** growth_of(name, drawn=False), rel=1e-3
    )
    fine = only(replace(BANNER, finish=Finish("fine", 95.0))).crops[0]
    assert expected_bytes(fine, one) == pytest.approx(1.21 * expected_bytes(crop, one), rel=1e-3)
