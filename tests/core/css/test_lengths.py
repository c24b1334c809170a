"""Lengths against the definitions of CSS Values and Units 4."""

import pytest

from sarvel.core.css.device import Device
from sarvel.core.css.lengths import LengthError, parse_length

PHONE, DESK = Device(390, 844, 3), Device(1440, 900, 2)


@pytest.mark.parametrize(
    ("css", "device", "pixels"),
    [
        ("384px", PHONE, 384),
        ("0", PHONE, 0),
        ("1IN", PHONE, 96),  # section 6.2: units of one inch, in any letter case
        ("2.54cm", PHONE, 96),
        ("25.4mm", PHONE, 96),
        ("101.6q", PHONE, 96),
        ("72pt", PHONE, 96),
        ("6pc", PHONE, 96),
        ("2em", PHONE, 32),
        ("2rem", Device(390, 844, font=20), 40),
        ("100vw", PHONE, 390),
        ("50vh", PHONE, 422),
        ("10vmin", DESK, 90),
        ("10vmax", DESK, 144),
        ("10svw", DESK, 144),
        ("10dvh", DESK, 90),
        ("10lvi", DESK, 144),
        ("10vb", DESK, 90),
        ("10cqmin", DESK, 90),
        ("10rem", DESK, 160),
        ("10ch", DESK, 80),
        ("10ric", DESK, 160),
        ("10rlh", DESK, 192),
        ("calc(100vw - 2rem)", PHONE, 358),
        ("calc((100vw - 5rem) / 2)", DESK, 680),
        ("calc(2 * 3 * 10px + 1px)", DESK, 61),
        ("calc(100vw - (10px - -5px))", DESK, 1425),
        ("calc(1px*2 + 6px/3)", DESK, 4),
        ("calc(100vw/*of the viewport*/ - 10px)", DESK, 1430),
        ("min(100vw - 4rem, 1280px)", DESK, 1280),
        ("max(20vw, 300px)", DESK, 300),
        ("clamp(100px, 25vw, 400px)", DESK, 360),
        ("clamp(500px, 25vw, 400px)", DESK, 500),  # section 10.2: the least wins over the most
        ("min(50vw, max(100px, 10vh))", DESK, 100),
        ("calc(10px - 2rem)", DESK, 0),  # a width is never negative
    ],
)
def test_value(css: str, device: Device, pixels: float) -> None:
    assert parse_length(css).on(device) == pytest.approx(pixels, abs=1e-9)


@pytest.mark.parametrize(
    ("css", "column", "words"),
    [
        ("", 1, 'is empty; write a CSS length such as "100vw"'),
        ("384", 1, "'384' has no unit; write \"384px\""),
        ("50%", 1, "'50%' depends on a container"),
        ("calc(100vw - 10%)", 14, "'10%' depends on a container"),
        ("10foo", 1, "'foo' in '10foo' is no unit known here; write one of px, em"),
        ("auto", 1, "'auto' is no CSS length"),
        ("100vw - 2rem", 7, 'arithmetic needs calc(); write "calc(100vw - 2rem)"'),
        ("10px 20px", 6, "is more than one length"),
        ("calc(10px +2px)", 11, "+ and - need a space on both sides"),
        ("calc(10px+ 2px)", 10, "needs a space on both sides"),
        ("calc(10px + 2)", 1, "a number and a length cannot be added"),
        ("calc(2px * 3px)", 10, "two lengths cannot be multiplied"),
        ("calc(2 / 3px)", 8, "a divisor must be a number"),
        ("calc(2)", 1, "is a number, not a length"),
        ("calc()", 1, "an empty value"),
        ("calc(1px +)", 10, "needs a space on both sides"),
        ("clamp(1px, 2px)", 1, "clamp() takes three values, got 2"),
        ("min(1px, 2)", 1, "min() mixes numbers and lengths"),
        ("round(1px)", 1, "'round()' is no function known here"),
    ],
)
def test_fault_says_where_and_what(css: str, column: int, words: str) -> None:
    with pytest.raises(LengthError) as caught:
        parse_length(css)
    assert words in caught.value.problem
    assert caught.value.column == column


def test_lengths_written_alike_are_equal() -> None:
    assert parse_length("100vw") == parse_length(" 100vw ")
    assert parse_length("100vw") != parse_length("99vw")
