"""Demands and simple ladders."""

import pytest

from sarvel.core.layout.ladder import by_hand, demand, even_spread


@pytest.mark.parametrize(
    ("shown", "dpr", "densities", "pixels"),
    [
        (360, 3, (1, 2), 720),
        (360, 1, (1, 2), 360),
        (358.5, 2.625, (1, 2, 3), 942),
        (100.0000000001, 1, (1,), 100),
        (0, 2, (1, 2), 1),
    ],
)
def test_demand(shown: float, dpr: float, densities: tuple[float, ...], pixels: int) -> None:
    assert demand(shown, dpr, densities) == pixels


@pytest.mark.parametrize(
    ("demands", "rungs", "limit", "widths"),
    [
        ([300, 400, 500], 5, 9999, (300, 400, 500)),
        ([100, 200, 300, 450, 900, 500], 5, 9999, (100, 300, 500, 700, 900)),
        ([100, 200, 300, 450, 900, 500], 5, 400, (100, 200, 300, 400)),
        ([100, 101, 102], 2, 9999, (100, 102)),
        ([100, 900], 1, 9999, (900,)),
        ([700, 900], 5, 400, (400,)),
    ],
)
def test_even_spread(demands: list[int], rungs: int, limit: int, widths: tuple[int, ...]) -> None:
    assert even_spread(demands, rungs, limit) == widths


def test_widths_by_hand_never_enlarge() -> None:
    assert by_hand([1600, 400, 2400], 2000) == (400, 1600, 2000)
