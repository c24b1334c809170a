"""Breakpoints as stylesheets say them."""

import pytest

from sarvel.core.survey.breakpoints import breakpoints_of


@pytest.mark.parametrize(
    ("media", "wanted"),
    [
        (["(min-width: 640px)"], {640: 1}),
        (["(max-width: 639px)", "(max-width: 639.98px)", "screen and (min-width:40em)"], {640: 3}),
        (["(min-width: 640px) and (max-width: 1023px)"], {640: 1, 1024: 1}),
        (["(640px <= width < 1024px)", "(width >= 40rem)"], {640: 2, 1024: 1}),
        (["not ((min-width: 500px) or (max-width: 899px))"], {500: 1, 900: 1}),
        (["(min-width: 640px), (min-width: 640px)"], {640: 1}),  # one media rule asks once
        (
            [
                "(min-width: 0)",
                "(min-width: 0px)",
                "(max-width: 99999px)",
                "print",
                "(min-height: 300px)",
                "(min-width: 1em",
                "",
            ],
            {16: 1},
        ),
        (["(min-width: calc(1px + 2px))", "(min-width: 5vw)", "(orientation: portrait)"], {}),
    ],
)
def test_breakpoints(media: list[str], wanted: dict[float, int]) -> None:
    assert breakpoints_of(media) == wanted
