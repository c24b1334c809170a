"""Mentions: which places of a page name an image, and for what."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.html.dialect import DIALECTS, HTML
from sarvel.core.html.json_values import json_values
from sarvel.core.html.mentions import elements_in, mentions_in

DATA = """{"@graph": [{"image": ["a.jpg", "b\\u002ejpg"], "logo": {"@type": "ImageObject", "url": "l.png"}},
 {"@type": "ImageObject", "contentUrl": "c.jpg", "width": 100, "height": "90", "name": "d.jpg"}, {"image": {"url": "e.jpg"}}]}"""


@pytest.mark.parametrize(
    ("markup", "expected"),
    [
        ('<a href="x.JPG?v=2">', [("link", "x.JPG?v=2", "")]),
        ("<area href=x.png><a href=x.html><a href='#x.png'><a name=x.png>", [("link", "x.png", "")]),
        ('<video poster=" p.webp "></video><video src="x.mp4">', [("single", "p.webp", "")]),
        ('<input type=IMAGE src="go"><input type=text src="x.png">', [("single", "go", "")]),
        ('<object data="o.png"><object data="o" type="image/png"><object data="x.pdf">', [("single", "o.png", ""), ("single", "o", "")]),
        ('<svg><image href="a&amp;b.jpg"/><image xlink:href="c.jpg"/></svg>', [("single", "a&b.jpg", ""), ("single", "c.jpg", "")]),
        ('<link rel="shortcut icon" href=f.ico><link rel=apple-touch-icon href=t.png><link rel=stylesheet href=x.css>', [("icon", "f.ico", ""), ("icon", "t.png", "")]),
        ('<link rel="icon" href="data:,"><link rel="image_src" href="s.jpg">', [("share", "s.jpg", "")]),
        ('<meta property="og:image" content="s.jpg"><meta property="og:image:width" content="9"><meta name="x" content="x.jpg">', [("share", "s.jpg", ""), ("share", "9", "width")]),
        ('<meta name="twitter:image" content="s.jpg"><meta name="twitter:image:alt" content="W"><meta itemprop="image" content="t.jpg">', [("share", "s.jpg", ""), ("share", "W", "alt"), ("share", "t.jpg", "")]),
        (f'<script type="application/ld+json">{DATA}</script>', [("share", "a.jpg", ""), ("share", "b.jpg", ""), ("share", "c.jpg", ""), ("share", "100", "width"), ("share", "90", "height"), ("share", "e.jpg", "")]),
        ('<script type="application/ld+json">{"image": "a.jpg",}</script><script>{"image": "a.jpg"}</script>', []),
        ('<!-- <a href="x.jpg"> --><textarea><a href="x.jpg"></textarea><img src="x.jpg">', []),
    ],
)  # fmt: skip
def test_the_places_of_a_page(markup: str, expected: list[tuple[str, str, str]]) -> None:
    found = mentions_in(markup, HTML)
    assert [(one.use, one.url, one.part) for one in found] == expected
    for one in found:
        assert markup[one.start : one.end].startswith(one.name or ('"', "1"))


def test_the_icons_of_a_manifest() -> None:
    text = (
        '{"icons": [{"src": "a.png", "sizes": "1x1"}, {"sizes": "any"}], "shortcuts": [{"icons": [{"src": "b.png"}]}]}'
    )
    (found,) = mentions_in(text, DIALECTS["json"])
    assert (found.use, found.url, text[found.start : found.end]) == ("icon", "a.png", '"a.png"')


def at(whole: object, path: tuple[str | int, ...]) -> object:
    for step in path:
        whole = whole[step]  # type: ignore[index]
    return whole


JSON = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats(allow_nan=False, allow_infinity=False) | st.text(),
    lambda inner: st.lists(inner) | st.dictionaries(st.text(), inner),
    max_leaves=12,
)


@given(JSON, st.sampled_from([None, 1, "\t"]), st.booleans())
def test_each_value_of_a_json_text_is_where_it_is_said_to_be(
    whole: object, indent: int | str | None, plain: bool
) -> None:
    text = json.dumps(whole, indent=indent, ensure_ascii=plain)
    for one in json_values(text):
        assert json.loads(text[one.start : one.end]) == at(whole, one.path)
    assert sum(one.path == () for one in json_values(text)) == 1


@pytest.mark.parametrize("text", ["", "{", '{"a": }', "[1,]", "nul", '"\n"', "[" * 100_000])
def test_a_text_that_is_no_json_has_none(text: str) -> None:
    assert list(json_values(text)) == []


@pytest.mark.parametrize(
    ("page", "elements"),
    [
        ("<p>a.jpg</p><img src=a.jpg srcset='b.jpg 1x'>", set()),
        ("<img src=a.jpg> <link href=b.ico>", {"link"}),
        ("<a class=b\n href = 'x.PNG?1'>", {"a", "area", "link"}),
        ("<META CONTENT='a.jpg'>", {"meta"}),
        ("<A HREF=/image/7 DATA-SARVEL=card>", {"a"}),
        ("<p data-sarvel-note><a href=/7>it</a>", set()),
        ("<area href='/7' data-sarvel='card'>", {"area"}),
        ("<VIDEO poster=x>", {"video"}),
    ],
)
def test_elements_that_may_mention_an_image_are_found_in_one_look(page: str, elements: set[str]) -> None:
    assert elements_in(page) == elements
