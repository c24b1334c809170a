"""Demands, the fit of widths, and the choice of widths by its terms."""

from collections.abc import Mapping
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.layout.cheapest import APART
from sarvel.core.layout.growth import GROWTH, bits_of, growth_of
from sarvel.core.layout.ladder import VISITS, WASTE, Chooser, Terms, by_hand, demand, even_spread, fitness, ladder


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


def test_fitness_by_hand() -> None:
    # Half need 100 px and get 200: b(200) / b(100) = 2^1.7. The other half get what they need.
    shares = {100: 1.0, 200: 1.0}
    one = fitness(shares, (200,), 1.7)
    assert one.excess == pytest.approx(2 * 2**1.7 / (1 + 2**1.7) - 1) and (one.waste, one.wasteful) == (2, 100)
    found = ladder(shares, (100, 200), 1.7)
    assert (found.fitness.excess, found.fitness.waste, found.even.excess) == (0, 1, 0) and found.one_for_all == one
    assert fitness({100: 1.0, 300: 1.0}, (100, 150), 1.7).excess == 0, (
        "who needs more gets the widest, and no byte too many"
    )


SHARES = st.dictionaries(st.integers(100, 4000), st.floats(0.01, 100), min_size=1, max_size=60)


def chosen(shares: Mapping[int, float], rungs: int, files: int = 3, excess: float | None = None) -> tuple[int, ...]:
    return Chooser(shares, Terms(rungs, excess, 1.7, files / VISITS)).widths(max(shares), max(shares))


@given(SHARES, st.integers(1, 8))
def test_the_choice_keeps_its_terms(shares: dict[int, float], rungs: int) -> None:
    widths = chosen(shares, rungs)
    assert len(widths) <= rungs and widths[-1] == max(shares) and set(widths) <= set(shares)
    assert all(wider >= APART * width - 1e-6 for width, wider in pairwise(widths))
    found = fitness(shares, widths, 1.7)
    wanted = Chooser(shares, Terms(rungs, None, 1.7, 3 / VISITS)).rungs_wanted(max(shares), max(shares))
    if wanted is not None:
        assert fitness(shares, chosen(shares, wanted), 1.7).waste <= WASTE
        assert wanted > rungs or found.waste <= WASTE or wanted != rungs


@pytest.mark.parametrize(
    ("shares", "rungs", "files", "widths"),
    [
        ({1000: 1.0, 1070: 1.0}, 5, 3, (1070,)),  # less than 8 % apart: one purpose, one file
        ({1000: 1.0, 1100: 1.0}, 5, 3, (1000, 1100)),
        ({1000: 0.01, 1100: 1.0}, 5, 3, (1100,)),  # a hundredth of the visits spare less than the files weigh
        ({1000: 0.1, 1100: 1.0}, 5, 1, (1000, 1100)),  # one file is worth what three are not
        ({1000: 0.04, 1100: 1.0}, 5, 5, (1100,)),
        ({300: 0.001, 1000: 1.0}, 5, 3, (300, 1000)),  # nobody gets three times what is needed, where that is cheap
        ({300: 0.001, 1000: 1.0}, 1, 3, (1000,)),
        ({300: 0.001, 1000: 1.0, 1300: 1.0}, 2, 3, (1000, 1300)),  # and where it is not, most visits come first
    ],
)
def test_files_that_are_not_worth_it(shares: dict[int, float], rungs: int, files: int, widths: tuple[int, ...]) -> None:
    assert chosen(shares, rungs, files) == widths


@given(SHARES, st.floats(0, 0.5))
def test_as_few_as_keep_the_excess(shares: dict[int, float], most: float) -> None:
    widths = chosen(shares, 1, excess=most)
    if len(widths) > 1 and fitness(shares, widths, 1.7).excess <= most:
        assert fitness(shares, chosen(shares, len(widths) - 1), 1.7).excess > most - 1e-9


def test_a_range_of_tops_spares_bytes() -> None:
    shares = {800: 1.0, 1000: 0.01}
    assert Chooser(shares, Terms(1, None, 1.7, 3 / VISITS)).widths(800, 1000) == (800,)
    assert Chooser(shares, Terms(1, None, 1.7, 3 / VISITS)).widths(950, 1000) == (1000,)
    assert Chooser(shares, Terms(2, None, 1.7, 3 / VISITS)).widths(600, 600) == (600,), "what a master gives"


@pytest.mark.parametrize(
    ("least", "most", "rungs", "widths"),
    [
        (300, 500, 3, (300, 400, 500)),
        (100, 900, 5, (100, 300, 500, 700, 900)),
        (100, 900, 1, (900,)),
        (7, 7, 3, (7,)),
    ],
)
def test_even_spread(least: int, most: int, rungs: int, widths: tuple[int, ...]) -> None:
    assert even_spread(least, most, rungs) == widths


def test_widths_by_hand_never_enlarge() -> None:
    assert by_hand([1600, 400, 2400], 2000) == (400, 1600, 2000)


def test_growth_differs_by_kind_and_format() -> None:
    """Noise grows with the area, outlines with the width; encoders spare some of that as pixels become many."""
    for name in ("avif", "webp", "jpeg", "jxl"):
        assert 1 < growth_of(name, drawn=False) <= 2 and 0 < bits_of(name, drawn=False) < 24
    for name in ("avif", "webp", "png"):
        assert growth_of(name, drawn=True) < growth_of("avif", drawn=False) and 0 < bits_of(name, drawn=True) < 8
    assert growth_of("none", drawn=False) == GROWTH
