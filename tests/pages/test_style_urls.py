"""Files in styles: found in the properties that show one, woven, and given back byte for byte."""

import pytest
import tinycss2
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.html.dialect import DIALECTS, HTML
from sarvel.pages.restore.blocks import blocks, replaced
from sarvel.pages.restore.style_urls import styled_in, url_in, url_woven
from sarvel.pages.weave.finished import finished

CSS, SCSS = DIALECTS["css"], DIALECTS["scss"]


def woven(text: str) -> str:
    return replaced(text, [(one, url_woven(one.author, "p/new.png")) for one in styled_in(text, CSS) if not one.fault])


def undone(text: str) -> str:
    return replaced(text, [(one, one.tag) for one in blocks(text, CSS, mapped=True) if not one.fault])


@pytest.mark.parametrize(
    ("css", "urls"),
    [
        ("ul { list-style: square url(a.png) inside }", ["a.png"]),
        ("a{LIST-STYLE-IMAGE:url( 'a b.png' );color:red}", ["a b.png"]),
        ("a:hover::after { content: 'url(x.png)' url(a.png) }", ["a.png"]),
        ("a { -webkit-mask: url(#m), url(a.png); mask-image: url(b.png) }", ["a.png", "b.png"]),
        ("@media (min-width: 9px) { a { border-image: url(a.png) 30 round } }", ["a.png"]),
        ("a { background: url(a.png); cursor: url(a.cur), auto; src: url(f.woff) }", []),
        ("/* a { content: url(a.png) } */ b { content: url(data:image/png,x) }", []),
        ("a { content: url({{ photo }}) } b { color: red", []),
    ],
)
def test_the_files_of_a_stylesheet(css: str, urls: list[str]) -> None:
    assert [one.urls[0] for one in styled_in(css, CSS)] == urls
    once = woven(css)
    assert once.count("p/new.png") == len(urls) and woven(once) == once and undone(once) == css
    plain = tinycss2.serialize(tinycss2.parse_stylesheet(once, skip_comments=True))
    assert plain.count("p/new.png") == len(urls) and "woven" not in plain


def test_scss_has_comments_of_its_own() -> None:
    text = (
        "// list-style: url(a.png)\n.a { &:hover { content: url(//x.example/a.png) } } // ' \n.b { mask: url(b.png) }"
    )
    assert [one.urls[0] for one in styled_in(text, SCSS)] == ["//x.example/a.png", "b.png"]


def test_style_elements_of_a_page() -> None:
    page = "<style>a { content: url(a.png) }</style><p>content: url(b.png)</p><!-- <style>a { content: url(c.png) } --><style>b { mask: url(d.png)"
    assert [one.urls[0] for one in styled_in(page, HTML)] == ["a.png", "d.png"]


def test_a_page_that_is_only_published_keeps_no_comment() -> None:
    assert finished(url_woven("url( a.png )", "p/new.png"), CSS) == 'url("p/new.png")'


def test_a_change_by_hand_stays_and_is_told() -> None:
    (block,) = blocks(woven("a { content: url(a.png) }").replace("new", "other"), CSS, mapped=True)
    assert "was changed by hand" in str(block.fault) and url_in("none") == ""


PIECES = st.sampled_from(
    [
        "a{",
        "}",
        "content:",
        "mask:",
        "url(a.png)",
        "url( 'b.png' )",
        ";",
        "/*",
        "*/",
        "'",
        '"',
        "url(",
        ")",
        "\n",
        "x",
        "{",
    ]
)


@given(st.lists(PIECES, max_size=12).map("".join))
def test_any_stylesheet_survives(css: str) -> None:
    once = woven(css)
    assert undone(once) == css and woven(once) == once
