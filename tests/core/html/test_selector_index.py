"""Selectors that no element of a page can meet are not tried; tests/core/html/test_sheet_rules.py tells that no other is left out."""

import pytest

from sarvel.core.html.lone_element import lone, names_in
from sarvel.core.html.selector_index import Index

PAGE = "<main class='wide md:flex'><a id=top class=x href=y>Words</a>"


@pytest.mark.parametrize(
    ("css", "is_near"),
    [
        ("*", True),
        ("[href]", True),
        ("a, b", True),
        ("b, i", False),
        ("main a.x:hover", True),
        (".gone a", False),
        ("#gone > a, .wide a", True),
        (".y", False),
        (r".x\:y", False),
        (r".\78", True),
        ("b[title='a, a']", False),
        (":not(:not(:not(:not(b)))) b", True),
        ("svg|a", True),
    ],
)
def test_selectors_near_an_element(css: str, *, is_near: bool) -> None:
    element = lone("a", {"id": "top", "class": "x", "href": "y"})
    assert bool(Index([css]).near(element, names_in(PAGE))) == is_near
    assert not is_near or Index([css]).near(element) == [css]
