"""Who meets a cut, and what they need of it."""

from dataclasses import replace
from typing import Any

import pytest

from sarvel.core.css.device import Device
from sarvel.core.edition.demand import demands_of, need_of
from sarvel.core.layout.audience import BUILT_IN
from tests.core.edition.test_compose import BADGE, BANNER


def test_each_device_meets_one_cut_and_needs_what_it_shows() -> None:
    desk, hand = demands_of(BANNER, BUILT_IN)
    assert {one.device.width >= 1024 for one in desk.visits} == {True} and {
        one.device.width < 1024 for one in hand.visits
    } == {True}
    assert len(desk.visits) + len(hand.visits) == len(BUILT_IN)
    assert (str(desk.viewports), str(hand.viewports)) == ("1024 px and up", "up to 1023 px")
    needs = {one.device: need for one, need in zip(hand.visits, hand.needs, strict=True)}
    assert needs[Device(390, 844, 3)] == 780 and needs[Device(320, 568, 2)] == 640, (
        "denser screens are served as the densest"
    )


def test_a_cut_without_devices_is_made_for_an_invented_one() -> None:
    desk, _ = demands_of(BANNER, tuple(one for one in BUILT_IN if one.device.width < 1024))
    (one,) = desk.visits
    assert one.label == "nobody of the audience" and one.device.width == 1024


@pytest.mark.parametrize(("widest", "need"), [(2560, 192), (100, 100)])
def test_no_need_exceeds_the_widest(widest: int, need: int) -> None:
    slot = replace(BADGE, widest=widest)
    assert need_of(slot, Device(400, 800, 3)) == need
    (cut,) = demands_of(slot, BUILT_IN)
    assert cut.said(2560) == (96, "") and cut.said(50) == (50, "") and max(cut.ladder(10_000).widths) == need
    assert cut.ladder(50).widths == (50,), "never wider than the master gives"


@pytest.mark.parametrize(
    ("change", "most", "said"),
    [
        ({}, 5000, (None, "min(100vw - 4rem, 1280px)")),
        ({}, 1280, (None, "min(100vw - 4rem, 1280px)")),
        ({}, 970, (None, "min(100vw - 4rem, 1280px, 970px)")),
        ({}, 900, (None, "min(100vw - 4rem, 1280px, 900px)")),
        ({"load": "later"}, 5000, (None, "min(100vw - 4rem, 1280px)")),
        ({"load": "later", "styled": True}, 5000, (None, "auto, min(100vw - 4rem, 1280px)")),
        ({"load": "first", "styled": True}, 5000, (None, "min(100vw - 4rem, 1280px)")),
    ],
)
def test_sizes_never_exceed_the_files_own_width(
    change: dict[str, Any], most: int, said: tuple[float | None, str]
) -> None:
    """The desk cut begins at 1024 px: there 100vw - 4rem is 960 px."""
    desk, _ = demands_of(replace(BANNER, **change), BUILT_IN)
    assert desk.said(most) == said


def test_ladders_by_hand_by_excess_and_by_rungs() -> None:
    by_hand, by_excess, by_rungs = (
        demands_of(replace(BANNER, **change), BUILT_IN)[0].ladder(5000)
        for change in ({"widths": (400, 9000)}, {"excess": 0.5}, {"rungs": 3})
    )
    assert by_hand.widths == (400, 2560) and by_excess.excess <= 0.5 and len(by_rungs.widths) <= 3
