"""Demands, and ladders against brute force."""

from itertools import combinations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.layout.ladder import GROWTH, by_hand, demand, even_spread, excess, ladder, optimal, within


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


SHARES = st.dictionaries(st.integers(1, 4000), st.floats(0.01, 100), min_size=1, max_size=9)


@given(SHARES, st.integers(1, 6), st.sampled_from([0.5, 1.0, GROWTH, 2.3]))
def test_no_choice_of_widths_is_better(shares: dict[int, float], rungs: int, growth: float) -> None:
    widths = optimal(shares, rungs, growth)
    *lower, greatest = sorted(shares)
    every = (chosen for count in range(rungs) for chosen in combinations(lower, count))
    best = min(excess(shares, (*chosen, greatest), growth) for chosen in every)
    assert len(widths) <= rungs and widths[-1] == greatest
    assert excess(shares, widths, growth) == pytest.approx(best, abs=1e-9)


@given(SHARES, st.floats(0, 0.5))
def test_as_few_as_keep_the_excess(shares: dict[int, float], most: float) -> None:
    widths = within(shares, most)
    assert excess(shares, widths) <= most + 1e-9
    assert len(widths) == 1 or excess(shares, optimal(shares, len(widths) - 1)) > most - 1e-9


def test_excess_by_hand() -> None:
    # Half need 100 px and get 200: b(200) / b(100) = 2^1.7. The other half get what they need.
    shares = {100: 1.0, 200: 1.0}
    assert excess(shares, (200,)) == pytest.approx(2 * 2**1.7 / (1 + 2**1.7) - 1)
    assert excess(shares, (100, 200)) == 0
    found = ladder(shares, (100, 200))
    assert (found.excess, found.even) == (0, 0) and found.one_for_all == excess(shares, (200,))


def test_many_demands_and_rungs_agree_with_a_plain_dynamic_program() -> None:
    """The slow way: every last rung with every rung before it."""
    shares = {7 * i + i * i % 5: 1 + i * 37 % 11 for i in range(1, 121)}
    needs = sorted(shares)
    cost = [sum(shares[n] for n in needs[: j + 1]) * need**GROWTH for j, need in enumerate(needs)]
    for _ in range(7):
        cost = [
            min(
                [
                    cost[j],
                    *(cost[i] + sum(shares[n] for n in needs[i + 1 : j + 1]) * needs[j] ** GROWTH for i in range(j)),
                ]
            )
            for j in range(len(needs))
        ]
    exact = sum(share * need**GROWTH for need, share in shares.items())
    assert excess(shares, optimal(shares, 8)) == pytest.approx(cost[-1] / exact - 1, abs=1e-9)


@pytest.mark.parametrize(
    ("demands", "rungs", "widths"),
    [
        ([300, 400, 500], 3, (300, 400, 500)),
        ([100, 200, 900], 5, (100, 300, 500, 700, 900)),
        ([100, 900], 1, (900,)),
        ([7, 7], 3, (7,)),
    ],
)
def test_even_spread(demands: list[int], rungs: int, widths: tuple[int, ...]) -> None:
    assert even_spread(demands, rungs) == widths


def test_widths_by_hand_never_enlarge() -> None:
    assert by_hand([1600, 400, 2400], 2000) == (400, 1600, 2000)
