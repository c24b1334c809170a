"""Media queries: the standard's own examples, three-valued logic, and the widths on which one can hold."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.css.device import Device
from sarvel.core.css.media import MediaError, parse_media, parse_media_strictly
from sarvel.core.css.viewports import EVERY, NONE

PHONE, DESK = (
    Device(390, 844, 3),
    Device(1440, 900, 2, hover=True, pointer="fine", color_scheme="dark", reduced_data=True),
)


@pytest.mark.parametrize(
    ("css", "phone", "desktop"),
    [
        ("", True, True),
        ("all", True, True),
        ("screen", True, True),
        ("print", False, False),
        ("not print", True, True),
        ("only screen and (min-width: 600px)", False, True),
        ("not screen and (min-width: 600px)", True, False),
        ("print, (min-width: 600px)", False, True),
        ("(min-width: 600px) and (max-width: 1440px)", False, True),
        ("(max-width: 400px) or (min-width: 1440px)", True, True),
        ("not (min-width: 600px)", True, False),
        ("(not (min-width: 600px))", True, False),
        ("((min-width: 300px) and (orientation: portrait))", True, False),
        ("(min-width: 600px) and", False, False),
        ("(min-width: 600px) and (max-width: 1px) or (min-width: 1px)", False, False),  # and beside or needs brackets
        ("screen or (min-width: 1px)", False, False),  # or needs conditions on both sides
        ("&test, (min-width: 1px)", True, True),  # Media Queries 4, section 3.2: one bad query does not spoil the list
        ("(example, all,), speech", False, False),  # the same section's example: "not all, speech"
        ("(unknown)", False, False),
        ("not (unknown)", False, False),  # section 3.1: unknown is not false
        ("(unknown) or (min-width: 1px)", True, True),
        ("not ((unknown) and (max-width: 1px))", True, True),
        ("future(1)", False, False),
        ("(width)", True, True),
        ("(monochrome)", False, False),
        ("(color)", True, True),
        ("(min-color: 4)", True, True),
        ("(grid: 0)", True, True),
        ("(width >= 600px)", False, True),
        ("(600px <= width)", False, True),
        ("(400px <= width < 1440px)", False, False),
        ("(1440px >= width > 400px)", False, True),
        ("(400px < width > 500px)", False, False),
        ("(width = 390px)", True, False),
        ("(width > = 1px)", False, False),
        ("(min-width > 1px)", False, False),
        ("(min-width)", False, False),
        ("(min-width: 30foo)", False, False),
        ("(min-width: calc(20rem + 1px))", True, True),
        ("(min-width: 30em)", False, True),
        ("(min-width: -1px)", True, True),
        ("(height < 900px)", True, False),
        ("(aspect-ratio: 16/10)", False, True),
        ("(min-aspect-ratio: 1)", False, True),
        ("(aspect-ratio > 1/1)", False, True),
        ("(aspect-ratio: 1/1/1)", False, False),
        ("(orientation: portrait)", True, False),
        ("(orientation: upright)", False, False),
        ("(min-resolution: 2dppx)", True, True),
        ("(min-resolution: 2.5x)", True, False),
        ("(max-resolution: 192dpi)", False, True),
        ("(min-resolution: 100dpcm)", True, False),
        ("(resolution < infinite)", True, True),
        ("(-webkit-min-device-pixel-ratio: 3)", True, False),
        ("(-webkit-device-pixel-ratio: 2)", False, True),
        ("(hover)", False, True),
        ("(hover: none)", True, False),
        ("(any-pointer: fine)", False, True),
        ("(prefers-color-scheme: dark)", False, True),
        ("(prefers-reduced-data)", False, True),
        ("not (prefers-reduced-data)", False, False),  # the phone's browser does not know the question
        ("(prefers-reduced-motion: reduce)", False, False),
        ("SCREEN AND (MIN-WIDTH: 600PX)", False, True),
    ],
)
def test_on_devices(css: str, phone: bool, desktop: bool) -> None:
    assert (parse_media(css).matches(PHONE), parse_media(css).matches(DESK)) == (phone, desktop)


@pytest.mark.parametrize(
    ("css", "words"),
    [
        ("(min-width: 640px)", "640 px and up"),
        ("(max-width: 640px)", "up to 640 px"),
        ("(width < 640px)", "up to 639 px"),
        ("(width = 640px)", "640 px"),
        ("(min-width: 640px) and (max-width: 1023px)", "640 to 1023 px"),
        ("(max-width: 639px), (min-width: 1024px)", "up to 639 px and 1024 px and up"),
        ("not (min-width: 640px)", "up to 639 px"),
        ("(min-width: 640px) and (max-width: 600px)", "no width"),
        ("print", "no width"),
        ("(orientation: portrait)", "every width"),
        ("(orientation: portrait) and (min-width: 1px)", "1 px and up"),
        ("(min-width: 50vw)", "every width"),
        ("(unknown)", "no width"),
        ("", "every width"),
    ],
)
def test_viewports_in_words(css: str, words: str) -> None:
    assert str(parse_media(css).test.can_hold) == words


PARTS = st.sampled_from(
    [
        "(min-width: 640px)",
        "(max-width: 640px)",
        "(width < 800px)",
        "(500px < width <= 900.5px)",
        "(width = 700px)",
        "(min-width: 40.1em)",
    ]
)
WIDTH_ALONE = st.recursive(
    PARTS,
    lambda inner: (
        st.builds("(not {})".format, inner)
        | st.builds("({} and {})".format, inner, inner)
        | st.builds("({} or {})".format, inner, inner)
    ),
    max_leaves=6,
)


@given(
    WIDTH_ALONE,
    st.sampled_from([1, 499.5, 500, 500.5, 639, 640, 641, 641.6, 699, 700, 701, 799, 800, 900.5, 901, 4000]),
)
def test_where_a_query_of_width_alone_can_hold_it_does(css: str, width: float) -> None:
    media = parse_media(css)
    holds = media.matches(Device(width, 600))
    assert (width in media.test.can_hold) == holds and (width in media.test.can_fail) != holds


def test_sets_of_widths() -> None:
    some = parse_media("(min-width: 640px)").test.can_hold
    assert (some | (EVERY - some)) == EVERY and (some & (EVERY - some)) == NONE and not NONE
    assert some.least == 640 and 640 in some and 639.99 not in some


@pytest.mark.parametrize(
    "css", ["(min-width: 640)", "(min-width 640px)", "min-width: 640px", "(bogus: 1)", "wide, (min-width: 1px) and"]
)
def test_what_nobody_means_is_an_error_to_who_writes_it(css: str) -> None:
    with pytest.raises(MediaError, match='is no media condition; write one such as "\\(min-width: 640px\\)"'):
        parse_media_strictly(css)
