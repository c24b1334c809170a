"""Selection by density."""

import pytest

from sarvel.core.html.density import select


@pytest.mark.parametrize(
    ("densities", "dpr", "chosen"),
    [
        ([1, 2, 3], 1, 0),
        ([1, 2, 3], 1.25, 1),
        ([1, 2, 3], 3, 2),
        ([1, 2, 3], 4, 2),
        ([3, 1, 2], 1.5, 2),
        ([2, 2], 1, 0),
        ([0.5], 3, 0),
        ([2, 1, 2], 9, 0),
    ],
)
def test_select(densities: list[float], dpr: float, chosen: int) -> None:
    assert select(densities, dpr) == chosen
