"""Selectors of one img, against Selectors Level 4."""

import pytest

from sarvel.core.html.ancestors import ancestors_of
from sarvel.core.html.dialect import HTML
from sarvel.core.html.selector import SelectorError, parse_selector
from sarvel.core.html.tags import read_tag

TAG = '<img class="wide first" id="top" width=300 SIZES="(min-width: 9px) 5vw, 9px" data-x>'


@pytest.mark.parametrize(
    ("css", "matches"),
    [
        ("img", True), ("p", False), ("IMG.wide", True), ("*", True), (".wide", True), ("img.wide.first", True), (".wid", False), (".wide.last", False),
        ("#top", True), ("img#down", False), ("[width]", True), ("[width=300]", True), ("[ width = '300' ]", True),
        ('[width="301"]', False), ("[height]", False), ("[data-x]", True), ('[data-x=""]', True), ('.first[id="top"][width]', True),
        ('[sizes="(min-width: 9px) 5vw, 9px"]', True), (" .wide ", True),
    ],
)  # fmt: skip
def test_matching(css: str, matches: bool) -> None:
    tag = read_tag(TAG, 0)
    assert tag and parse_selector(css).matches(tag) is matches


@pytest.mark.parametrize(
    "css", ["", ".wide > img", ".a, .b", "img:hover", "[width", "[width~=3]", "..a", ".a + img", ".a  >", "img.wide*"]
)
def test_what_is_no_selector_of_an_img(css: str) -> None:
    with pytest.raises(SelectorError, match="is not a supported selector; write one such as"):
        parse_selector(css)


@pytest.mark.parametrize(
    ("css", "matches"),
    [
        (".cards img", True), ("main .cards .wide", True), (".cards main img", False), ("p img", False), ("#top img", False),
        ("section  article img", True), ("section section img", True), ("section section section img", False), ("body [width]", True),
    ],
)  # fmt: skip
def test_what_it_stands_in(css: str, matches: bool) -> None:
    text = f'<body><p class=cards id=top><br></p><main><section class="cards x"><hr/><section><article>{TAG}</article></section></section>'
    found = ancestors_of(text, HTML, [text.index("<img")])
    tag = read_tag(text, text.index("<img"))
    assert tag and parse_selector(css).matches(tag, found[tag.start]) is matches
