"""Shown widths, and the `sizes` that says the same; here read back by a few lines of their own."""

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.css.device import Device
from sarvel.core.css.lengths import parse_length
from sarvel.core.css.viewports import EVERY, Viewports, at_least
from sarvel.core.html.sizes import parse_sizes, sizes_on
from sarvel.core.layout.bands import bands_from
from sarvel.core.layout.shown import Shown, Step

LENGTHS = ["100vw", "calc(100vw - 2rem)", "384px", "min(100vw - 4rem, 1280px)", "33.3vw", "50vmin"]


def shown(**lengths: str) -> Shown:
    starts = {name: float(name[1:]) for name in lengths}
    return Shown.by_band(tuple((band, parse_length(lengths[band.name])) for band in bands_from(starts, list(lengths))))


def as_a_browser_reads(sizes: str, device: Device) -> float:
    """The first entry whose condition holds; a comma inside brackets does not part entries."""
    for entry in re.split(r",\s*(?![^()]*\))", sizes):
        condition = re.match(r"\(min-width: ([\d.]+)px\) ", entry)
        if not condition or device.width >= float(condition.group(1)):
            return parse_length(entry[condition.end() if condition else 0 :]).on(device)
    raise AssertionError(sizes)


@pytest.mark.parametrize(
    ("steps", "part", "lazy", "sizes"),
    [
        ({"b0": "100vw"}, EVERY, False, "100vw"),
        ({"b0": "100vw"}, EVERY, True, "auto, 100vw"),
        (
            {"b0": "100vw", "b640": "50vw", "b1024": "384px"},
            EVERY,
            False,
            "(min-width: 1024px) 384px, (min-width: 640px) 50vw, 100vw",
        ),
        ({"b0": "100vw", "b640": "100vw", "b1024": "384px"}, EVERY, False, "(min-width: 1024px) 384px, 100vw"),
        ({"b0": "100vw", "b640": "50vw", "b1024": "384px"}, at_least(640) - at_least(1024), False, "50vw"),
        ({"b0": "100vw", "b640": "50vw", "b1024": "384px"}, at_least(1024), False, "384px"),
        ({"b0": "100vw", "b640": "50vw"}, at_least(320) - at_least(641), False, "(min-width: 640px) 50vw, 100vw"),
    ],
)
def test_sizes(steps: dict[str, str], part: Viewports, lazy: bool, sizes: str) -> None:
    assert shown(**steps).sizes(part, lazy=lazy) == sizes


@given(
    st.dictionaries(st.integers(1, 3000), st.sampled_from(LENGTHS), max_size=5),
    st.sampled_from(LENGTHS),
    st.integers(240, 3840),
    st.integers(0, 3000),
)
def test_sizes_say_the_shown_width_everywhere(steps: dict[int, str], first: str, viewport: int, start: int) -> None:
    layout = shown(b0=first, **{f"b{at}": length for at, length in steps.items()})
    device = Device(viewport, 800)
    sizes = layout.sizes(at_least(start) if viewport >= start else EVERY)
    assert as_a_browser_reads(sizes, device) == pytest.approx(layout.on(device), abs=0.01)


@pytest.mark.parametrize(
    "sizes",
    [
        "(min-width: 1024px) min(100vw - 4rem, 1280px), (min-width: 640px) calc((100vw - 5rem) / 2), calc(100vw - 2rem)",
        "(max-width: 599.5px) 90vw, (orientation: landscape) 40vw, clamp(200px, 30vw, 500px)",
        "(width < 30em) 50vmin, 2in",
    ],
)
def test_sizes_say_the_shown_width_at_every_viewport(sizes: str) -> None:
    steps = [Step(entry.media, entry.length) for entry in parse_sizes(sizes) if entry.length]
    layout = Shown(tuple(steps))
    written = parse_sizes(layout.sizes())
    for width in range(240, 3841):
        device = Device(width, 800)
        assert sizes_on(written, device).on(device) == pytest.approx(layout.on(device), abs=0.01)


@pytest.mark.parametrize(
    ("length", "constant"),
    [
        ("96px", 96.0),
        ("calc(2rem + 1px)", 33.0),
        ("100vw", None),
        ("10vmin", None),
        ("1vmax", None),
        ("50vh", None),
        ("min(100px, 50vw)", 100.0),
    ],
)
def test_constant(length: str, constant: float | None) -> None:
    assert shown(b0=length).constant() == constant
