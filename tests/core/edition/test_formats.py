"""The formats of a crop: who reads which, the widths of each, and those that few would fetch."""

from collections.abc import Mapping
from dataclasses import replace
from itertools import combinations

import pytest

from sarvel.core.edition.demand import demands_of
from sarvel.core.edition.expected import expected_bytes
from sarvel.core.edition.formats import NAMED, READS, formats_of, readers_of
from sarvel.core.layout.audience import BUILT_IN
from sarvel.core.layout.growth import growth_of
from sarvel.core.layout.ladder import VISITS
from tests.core.edition.test_compose import BANNER

ALL = ("avif", "webp", "jpeg")


@pytest.mark.parametrize(
    ("formats", "reads", "readers"),
    [
        (ALL, {"avif": 0.9, "webp": 0.97}, [0.9, 0.07, 0.03]),
        (ALL, {"avif": 0.97, "webp": 0.9}, [0.97, 0.005, 0.03]),  # few at least, for it is made
        (("jxl", "avif", "jpeg"), {"jxl": 0.15, "avif": 0.9}, [0.15, 0.75, 0.1]),
        (("webp", "png"), {}, [1.0, 0.005]),
        (("jpeg",), {"jpeg": 0.5}, [1.0]),  # the last one is for all
    ],
)
def test_visits_fetch_the_first_format_that_they_read(
    formats: tuple[str, ...], reads: Mapping[str, float], readers: list[float]
) -> None:
    found = readers_of(formats, reads)
    assert tuple(found) == formats and list(found.values()) == pytest.approx(readers)


@pytest.mark.parametrize("crop", [0, 1])
def test_a_fallback_has_the_cheapest_of_the_first_formats_widths(crop: int) -> None:
    """Against every choice of them: bytes that its visits fetch, its files over 500 visits, its names in the page."""
    met = demands_of(BANNER, BUILT_IN)[crop]
    choice = formats_of(met, 4000, 1.0, ("avif", "jpeg"), READS, drawn=False)
    first, last = (choice.ladders[name].widths for name in ("avif", "jpeg"))
    unit = expected_bytes("jpeg", (1, 1), BANNER.finish, drawn=False)
    readers, growth = 1 - READS["avif"], growth_of("jpeg", drawn=False)

    def cost(widths: tuple[int, ...]) -> float:
        weights = {width: unit * float(width**growth) for width in widths}
        fetched = sum(
            share * weights[next((one for one in widths if one >= need), widths[-1])]
            for need, share in met.fetching.items()
        )
        return float(met.share) * (readers * fetched + sum(weights.values()) / VISITS) + NAMED * len(widths)

    choices = [(*some, first[-1]) for count in range(len(first)) for some in combinations(first[:-1], count)]
    assert last in choices and len(last) < len(first)
    assert cost(last) <= 1.01 * min(map(cost, choices))  # what keeping everyone from a waste may add


def test_a_format_between_that_could_not_pay_is_left_out_with_its_sums() -> None:
    met = demands_of(replace(BANNER, widest=64), BUILT_IN)[0]
    choice = formats_of(met, 4000, 1.0, ALL, {"avif": 0.969, "webp": 0.97}, drawn=False)
    (few,) = choice.few
    assert few.format == "webp" and list(choice.ladders) == ["avif", "jpeg"]
    assert few.readers == pytest.approx(0.005) and few.cost > 0.45 * few.readers * few.fetched * met.share
    met = demands_of(BANNER, BUILT_IN)[0]
    assert formats_of(met, 4000, 1.0, ALL, {"avif": 0.5, "webp": 1.0}, drawn=False).few == ()


def test_one_address_for_all_formats_means_the_same_widths_for_all() -> None:
    choice = formats_of(demands_of(BANNER, BUILT_IN)[0], 4000, 1.0, ALL, None, drawn=False)
    assert len({one.widths for one in choice.ladders.values()}) == 1 and not choice.readers
