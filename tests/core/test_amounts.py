"""Amounts in words."""

import pytest

from sarvel.core.amounts import counted, listed, percent, weight


@pytest.mark.parametrize(
    ("told", "words"),
    [
        (percent(0.996), "99%"),
        (percent(-0.5), "-50%"),
        (weight(9_949), "9.9 kB"),
        (weight(9_950), "10 kB"),
        (weight(999_499), "999 kB"),
        (weight(999_500), "1.0 MB"),
        (counted(1, "page"), "1 page"),
        (counted(0, "page"), "0 pages"),
        (listed(["a", "b", "c"]), "a, b, c"),
        (listed(["a", "b", "c"], 2), "a, b and 1 more"),
    ],
)
def test_amounts(told: str, words: str) -> None:
    assert told == words
