"""The cheapest ladders, against trying every choice and against a plain dynamic program."""

import math
from collections.abc import Mapping, Sequence
from itertools import combinations, pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.layout.cheapest import APART, Ways

SHARES = st.dictionaries(st.integers(1, 400), st.floats(0.01, 100), min_size=1, max_size=9)


def cost(shares: Mapping[int, float], widths: Sequence[int], growth: float, kept: float, named: float) -> float:
    """The cost of a ladder, by its definition; whoever needs more than the widest gets that."""
    total = sum(shares.values())
    fetched: float = sum(
        share / total * float(next((one for one in widths if one >= need), widths[-1]) ** growth)
        for need, share in shares.items()
    )
    return fetched + math.fsum(kept * float(width) ** growth + named for width in widths)


def is_allowed(shares: Mapping[int, float], widths: Sequence[int], waste: float) -> bool:
    got = ((next((one for one in widths if one >= need), widths[-1]), need) for need in shares)
    return all(b >= APART * a - 1e-6 for a, b in pairwise(widths)) and all(
        fit <= waste * need + 1e-6 for fit, need in got
    )


@given(
    SHARES,
    st.integers(1, 6),
    st.sampled_from([0.5, 1.0, 1.7, 2.3]),
    st.sampled_from([0.0, 0.006, 0.2]),
    st.sampled_from([math.inf, 3.0, 1.75, 1.2]),
    st.sampled_from([0.0, 1.0, 200.0]),
    st.lists(st.integers(1, 500), max_size=2),
)
def test_no_choice_of_widths_is_cheaper(
    shares: dict[int, float], most: int, growth: float, kept: float, waste: float, named: float, more: list[int]
) -> None:
    tops = sorted({max(shares), *more})
    best: dict[int, float] = {}
    for top in tops:
        lower = sorted(need for need in shares if need < top)
        for chosen in (some for count in range(most) for some in combinations(lower, count)):
            if is_allowed(shares, widths := (*chosen, top), waste):
                best[len(widths)] = min(cost(shares, widths, growth, kept, named), best.get(len(widths), math.inf))
    found = list(Ways(shares, growth, kept, waste, named).ladders(tops, most))
    assert {len(widths): told for told, widths in found} == pytest.approx(best)
    for told, widths in found:
        assert is_allowed(shares, widths, waste) and widths[-1] in tops
        assert told == pytest.approx(cost(shares, widths, growth, kept, named))


def test_many_demands_agree_with_a_plain_dynamic_program() -> None:
    """The slow way: every last rung with every rung before it."""
    shares = {97 * i + i * i % 5: 1.0 + i * 37 % 11 for i in range(3, 121)}
    needs, total = sorted(shares), sum(shares.values())

    def between(i: int, j: int) -> float:
        return sum(shares[need] for need in needs[i + 1 : j + 1]) / total * float(needs[j] ** 1.7)

    costs = [between(-1, j) for j in range(len(needs))]
    for _ in range(7):
        costs = [
            min(
                (costs[i] + between(i, j) for i in range(j) if needs[j] >= APART * needs[i]),
                default=math.inf,
            )
            for j in range(len(needs))
        ]
    told, widths = list(Ways(shares, 1.7).ladders([needs[-1]], 8))[-1]
    assert len(widths) == 8 and told == pytest.approx(costs[-1])
