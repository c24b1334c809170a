"""Audiences: ranges taken apart, and the table that serves where nobody gives one."""

import itertools
import math

import pytest

from sarvel.core.css.device import Device
from sarvel.core.layout.audience import BUILT_IN, MANY, STEP, Visits, busiest, diverse, ends_of, spread_of

PHONE = Visits(Device(390, 844, 3), 6, "phone")
WINDOW = Visits(Device(1000, 700, 1), 4, "window", 1000 + 2.5 * STEP)


def test_ranges_taken_apart() -> None:
    assert (str(PHONE), str(WINDOW)) == ("390x844@3", "1000-1040x700@1")
    assert [one.device.width for one in ends_of([PHONE, WINDOW])] == [390, 1000, 1040]
    spread = spread_of([PHONE, WINDOW])
    assert [one.device.width for one in spread] == [390, 1000, 1016, 1032, 1040]
    assert {one.share for one in spread} == {6, 1} and {one.device.height for one in spread[1:]} == {700}


@pytest.mark.parametrize(("most", "widths"), [(9, [390, 1000, 1040]), (3, [390, 1000, 1040]), (2, [390, 1040])])
def test_the_busiest(most: int, widths: list[int]) -> None:
    assert [one.device.width for one in busiest([WINDOW, PHONE], most)] == widths


def test_the_most_visited_between_the_ends() -> None:
    rows = [Visits(Device(100 * i, 500), i % 4 + 1, "") for i in range(1, 9)]
    assert [one.device.width for one in busiest(rows, 4)] == [100, 300, 700, 800]


@pytest.mark.parametrize("starts", [(), (0,), (0, 640, 1024)])
def test_different_viewports_are_of_all_sizes_and_densities(starts: tuple[float, ...]) -> None:
    found = [one.device for one in diverse(BUILT_IN, starts, 6)]
    assert len(found) == 6 and {math.ceil(one.dpr) for one in found} == {1, 2, 3}
    sizes = (0, 600, 900, 1300, 1800, 9999)
    assert all(any(low <= one.width < high for one in found) for low, high in itertools.pairwise(sizes))
    assert [one.device.width for one in diverse([PHONE, WINDOW], starts, 6)] == [390, 1000, 1040]


def test_the_built_in_table() -> None:
    """The CSS widths that phones have, upright and lying; tablets and windows as ranges."""
    phones = [one.device for one in BUILT_IN if one.until is None]
    upright = {one.width for one in phones if one.width < one.height}
    assert upright == {320, 353, 360, 375, 384, 390, 393, 402, 412, 414, 428, 430, 440}
    assert {(one.width, one.height, one.dpr) for one in phones if one.width > one.height} == {
        (one.height, one.width, one.dpr) for one in phones if one.width < one.height
    }
    assert all("tablet" in one.label or "window" in one.label for one in BUILT_IN if one.until)
    assert sum(one.share for one in BUILT_IN) == pytest.approx(104, abs=10) and len(ends_of(BUILT_IN)) <= MANY
