"""What plan promises of a crop, and what it advises."""

from dataclasses import replace
from typing import Any

import pytest

from sarvel.core.edition.promise import promise_of, shortfalls
from sarvel.core.facts import MasterFacts
from tests.core.edition.test_compose import BADGE, BANNER, LAMP, only


@pytest.mark.parametrize(
    ("change", "facts", "end", "soft"),
    [
        ({}, LAMP, "", 0.05),  # 1280 px at density 2 is what `widest` allows
        ({"widest": 2000}, LAMP, "widest", 1 - 2000 / 2560),
        ({}, replace(LAMP, width=1500, height=1000), "master", 1 - 1500 / 2560),
        ({"widths": (400, 800)}, LAMP, "widths", 1 - 800 / 2560),
        ({"widths": (400, 800), "soft": 0.7}, LAMP, "", 1 - 800 / 2560),
    ],
)
def test_what_ends_a_ladder(change: dict[str, Any], facts: MasterFacts, end: str, soft: float) -> None:
    desktop = only(replace(BANNER, **change), facts).crops[0]
    found = promise_of(desktop)
    assert found.end == end and (
        found.soft == pytest.approx(soft, abs=1e-3) if end else found.soft <= desktop.met.slot.soft or change
    )
    assert found.softest.width >= 1344 and found.softest.dpr == 2


def test_sentences_stand_once_for_all_masters() -> None:
    narrow = replace(BANNER, rungs=1)
    told = shortfalls([only(narrow), only(narrow, replace(LAMP, key="b.jpg")), only(BADGE)])
    assert len(told) == 2
    assert str(told[1]) == (
        "slots.banner: crop phone: 240x800@1 gets 8.1 times the pixels across that it needs; "
        f"{promise_of(only(narrow).crops[1]).rungs} widths would keep every device below 1.75 times"
    )
    by_hand = shortfalls([only(replace(BANNER, widths=(300,)))])
    assert str(by_hand[0]).startswith("slots.banner: crop desktop: its widths end where ") and "is soft by 88%" in str(
        by_hand[0]
    )
