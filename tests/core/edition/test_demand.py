"""Who meets a crop, and what they need: the audience, and those whom nobody listed."""

import random
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sarvel.core.css.device import Device
from sarvel.core.css.lengths import parse_length
from sarvel.core.css.media import parse_media
from sarvel.core.edition.demand import CropDemand, demands_of, need_of
from sarvel.core.layout.audience import BUILT_IN, Visits, spread_of
from sarvel.core.layout.growth import growth_of
from sarvel.core.layout.ladder import VISITS, Terms
from sarvel.core.layout.shown import EVERYWHERE, Shown, Step
from sarvel.core.layout.unlisted import NARROWEST, SHARE, WIDEST
from sarvel.core.model import CropRule, Slot
from tests.core.edition.test_compose import BADGE, BANNER


def photo(slot: Slot) -> Terms:
    """The terms of a photograph in three formats, the first of them AVIF."""
    return Terms(slot.rungs, slot.excess, growth_of("avif", drawn=False), 3 / VISITS)


def test_each_device_meets_one_crop_and_needs_what_it_shows() -> None:
    desktop, phone = demands_of(BANNER, BUILT_IN)
    assert {one.device.width >= 1024 for one in desktop.visits} == {True} and {
        one.device.width < 1024 for one in phone.visits
    } == {True}
    assert len(desktop.visits) + len(phone.visits) == len(spread_of(BUILT_IN))
    assert (str(desktop.viewports), str(phone.viewports)) == ("1024 px and up", "up to 1023 px")
    needs = {one.device: need for one, need in zip(phone.visits, phone.needs, strict=True)}
    assert needs[Device(390, 844, 3)] == 780 and needs[Device(320, 568, 2)] == 640, (
        "denser screens are served as the densest"
    )


def test_those_nobody_listed_have_their_share() -> None:
    one = Visits(Device(400, 800, 2), 7, "")
    (badge,) = demands_of(BADGE, [one])
    assert badge.shares == pytest.approx({192: 1 - SHARE / 2, 96: SHARE / 2}), "half of the unlisted have each density"
    desktop, phone = demands_of(BANNER, [one])
    assert sum(phone.shares.values()) == pytest.approx(1) and phone.shares[800] > 1 - SHARE
    assert min(phone.shares) == NARROWEST and max(phone.shares) == 2048, (
        "one px before the desktop begins, twice as dense"
    )
    assert {one.label for one in desktop.visits} == {"not in the audience"}
    assert sum(desktop.shares.values()) == pytest.approx(1)


def test_a_crop_that_asks_for_more_than_a_viewport_is_made_for_all_on_whom_it_can_hold() -> None:
    dark, light = (
        CropRule("dark", parse_media("(prefers-color-scheme: dark) and (max-width: 700px)"), 1),
        BANNER.crops[1],
    )
    crop, rest = demands_of(replace(BANNER, crops=(dark, light)), BUILT_IN)
    assert (min(crop.others), max(crop.others)) == (NARROWEST, 1400) and max(rest.others) == 2560
    (nobody,) = {
        str(one.device)
        for one in demands_of(
            replace(BANNER, crops=(replace(dark, media=parse_media("(min-width: 5000px)")), light)), BUILT_IN
        )[0].visits
    }
    assert nobody == "5000x800@2"


LENGTHS = st.one_of(
    st.integers(5, 100).map(lambda n: f"{n}vw"),
    st.integers(60, 1500).map(lambda n: f"{n}px"),
    st.tuples(st.integers(20, 100), st.integers(0, 200)).map(lambda n: f"calc({n[0]}vw - {n[1]}px)"),
    st.tuples(st.integers(20, 100), st.integers(100, 1500)).map(lambda n: f"min({n[0]}vw, {n[1]}px)"),
    st.tuples(st.integers(100, 1500), st.integers(20, 100)).map(lambda n: f"max(100px, {n[0]}px - {n[1]}vw)"),
    st.tuples(st.integers(50, 300), st.integers(10, 90), st.integers(300, 900)).map(lambda n: f"clamp({n[0]}px, {n[1]}vh, {n[2]}px)"),
    st.integers(20, 90).map(lambda n: f"{n}vmin"),
)  # fmt: skip
CONDITIONS = st.one_of(
    st.integers(241, 3000).map(lambda n: f"(min-width: {n}px)"),
    st.integers(240, 3000).map(lambda n: f"(max-width: {n}.5px)"),
    st.sampled_from(["(orientation: portrait)", "(min-height: 700px)", "(min-aspect-ratio: 16/9)", "(min-resolution: 1.7dppx)"]),
)  # fmt: skip


def slot_of(lengths: Sequence[str], steps: Sequence[str], crops: Sequence[str], densities: Sequence[float]) -> Slot:
    """A slot of random lengths behind random conditions, and random crops."""
    conditions = [*map(parse_media, steps), EVERYWHERE]
    shown = Shown(tuple(Step(media, parse_length(length)) for media, length in zip(conditions, lengths, strict=False)))
    rules = [CropRule(f"crop{i}", media, 1.5) for i, media in enumerate([*map(parse_media, crops), EVERYWHERE])]
    return replace(BANNER, shown=shown, crops=tuple(rules), densities=tuple(densities), widest=16_000)


@settings(max_examples=15)
@given(
    st.lists(LENGTHS, min_size=3, max_size=3),
    st.lists(CONDITIONS, max_size=2),
    st.lists(CONDITIONS | st.just("(prefers-color-scheme: dark)"), max_size=2, unique=True),
    st.sampled_from([(1,), (1, 2), (1, 2, 3), (1.5, 3)]),
    st.integers(0, 10**6),
)
def test_nobody_gets_a_softer_image_than_is_promised(
    lengths: list[str], steps: list[str], crops: list[str], densities: tuple[float, ...], seed: int
) -> None:
    """500 viewports at random, with densities up to the slot's; dark ones as well."""
    slot = slot_of(lengths, steps, crops, densities)
    met = demands_of(slot, [Visits(Device(390, 844, 3), 1, ""), Visits(Device(1024, 700, 1), 1, "", 1500)])
    chance = random.Random(seed)
    for _ in range(500):
        width, height = (chance.uniform(NARROWEST, WIDEST) for _ in range(2))
        density = chance.uniform(0.5, max(densities))
        device = Device(width, height, density, color_scheme="dark" if chance.random() < 0.5 else "light")
        crop = next(one for one in met if one.rule.media.matches(device))
        widest = crop.ladder(20_000, photo(slot)).widths[-1]
        assert widest >= (1 - slot.soft) * slot.shown.on(device) * device.dpr - 1, (str(device), crop.rule.media.css)


@pytest.mark.parametrize(
    ("change", "most", "said"),
    [
        ({}, 5000, (None, "min(100vw - 4rem, 1280px)")),
        ({}, 1280, (None, "min(100vw - 4rem, 1280px)")),
        ({}, 970, (None, "min(100vw - 4rem, 1280px, 970px)")),
        ({}, 900, (None, "min(100vw - 4rem, 1280px, 900px)")),
        ({"loading": "lazy"}, 5000, (None, "min(100vw - 4rem, 1280px)")),
        ({"loading": "lazy", "auto_sizes": True}, 5000, (None, "auto, min(100vw - 4rem, 1280px)")),
        ({"loading": "eager", "auto_sizes": True}, 5000, (None, "min(100vw - 4rem, 1280px)")),
    ],
)
def test_sizes_never_exceed_the_files_own_width(
    change: dict[str, Any], most: int, said: tuple[float | None, str]
) -> None:
    """The desktop crop begins at 1024 px: there 100vw - 4rem is 960 px."""
    desktop, _ = demands_of(replace(BANNER, **change), BUILT_IN)
    assert desktop.said(most) == said


def ladder_of(change: dict[str, Any], own: int = 5000) -> tuple[int, ...]:
    slot = replace(BANNER, **change)
    return demands_of(slot, BUILT_IN)[0].ladder(own, photo(slot)).widths


def test_ladders_by_hand_by_excess_and_by_rungs() -> None:
    assert ladder_of({"widths": (400, 9000)}) == (400, 2560)
    assert len(ladder_of({"rungs": 3})) <= 3
    desktop: CropDemand = demands_of(replace(BANNER, excess=0.03), BUILT_IN)[0]
    assert desktop.ladder(5000, photo(desktop.slot)).fitness.excess <= 0.03


def test_no_need_exceeds_the_widest_or_the_master() -> None:
    slot = replace(BADGE, widest=100)
    assert need_of(slot, Device(400, 800, 3)) == 100
    (crop,) = demands_of(slot, BUILT_IN)
    assert crop.said(2560) == (96, "") and crop.said(50) == (50, "")
    assert crop.ladder(10_000, photo(slot)).widths[-1] == 100 and crop.ladder(50, photo(slot)).widths == (50,)


def test_softness_that_is_allowed_spares_the_last_step() -> None:
    """The audience is sharp whatever is allowed."""
    audience = [Visits(Device(1100, 700, 2), 1, "")]
    top = {
        soft: demands_of(replace(BANNER, soft=soft), audience)[0].ladder(5000, photo(BANNER)).widths[-1]
        for soft in (0.0, 0.05, 0.15, 0.9)
    }
    assert (
        top[0.0] == 2560 and 0.95 * 2560 <= top[0.05] < 2560 and top[0.15] < top[0.05] and top[0.9] >= 2 * (1100 - 64)
    )
