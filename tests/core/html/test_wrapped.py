"""Which rules could lay out a picture or its sources, arrange it among its parent's children, or give an img edges."""

import pytest

from sarvel.core.css.sheet import read_sheet
from sarvel.core.html.tags import Tag, read_tag
from sarvel.core.html.wrapped import Rules, element_of

PAGE = '<div class="card wide" id="top">'
BODY = ("body", ())


def tag(text: str) -> Tag:
    found = read_tag(text, 0)
    assert found
    return found


@pytest.mark.parametrize(
    ("css", "shows"),
    [
        ("* { margin: 0; padding: 0; box-sizing: border-box; border: 0 none; font-size: 100%; vertical-align: baseline }", False),
        ("*, ::before { --x: 1px; color: red; animation-duration: .01ms } img { display: block; padding: 4px }", False),
        (".other > * { margin-top: 1em } *::after { display: block } picture::before { content: 'x' }", False),
        ("* { font: inherit; display: inline; box-sizing: inherit }", False),
        ("* { margin: inherit }", True),
        (".card > * { display: none }", True),
        ("picture { display: block }", True),
        ("img, svg, source { display: block }", True),
        ("* { margin-top: 1em }", True),
        (".card > * + * { margin-top: 1em }", True),
        ("#top :first-child { padding: 1px }", True),
        (".card *:unheard-of { padding: 1px }", True),
        (".card > .thumb:not(:unheard-of) ~ label { padding: 1px }", False),
        (".card > .thumb:not(:unheard-of) ~ :hover { padding: 1px }", True),
        ("body > * { padding: 1px } .thumb > * { margin: 1px }", False),
        (".card > { odd: 1 } .card >> * { padding: 1px }", True),
        ("@media (min-width: 40em) { .card > * { float: left } }", True),
    ],
)  # fmt: skip
def test_rules_that_may_lay_out_a_picture(css: str, *, shows: bool) -> None:
    assert Rules(read_sheet(css).declarations).shows_picture((BODY, element_of(tag(PAGE)))) == shows


@pytest.mark.parametrize(
    ("css", "around", "arranged"),
    [
        ("", "<div>", False),
        ("", "<div style='display: flex'>", True),
        ("", "", True),
        (".card { display: inline-flex }", "<div class=card>", True),
        (".card { display: block } .other { display: grid }", "<div class=card>", False),
        ("@media (min-width: 40em) { div { display: grid } }", "<div>", True),
        (".wide > a { display: -webkit-box }", "<div class=wide><a>", True),
        (".wide > a { display: -webkit-box }", "<div class=wide><p><a>", True),
        (".wide > a { display: -webkit-box }", "<div class=wide><div><a>", False),
        (".gone > div { display: flex }", "<div>", False),
        (".md\\:flex { display: flex }", "<div class='md:flex'>", True),
        (".md\\:flex:hover { display: flex }", "<div class='md:block'>", False),
        ("ul { display: flex } li { display: list-item }", "<ul><li>", True),
        ("main { display: flex }", "<main><p>", True),
        ("main { display: flex }", "<main><div>", False),
        ("a { display: contents }", "<a>", True),
    ],
)
def test_elements_that_may_arrange_their_children(css: str, around: str, *, arranged: bool) -> None:
    around_ = tuple(element_of(tag(f"<{part}")) for part in around.split("<")[1:])
    assert Rules(read_sheet(css).declarations).arranges(around_) == arranged


@pytest.mark.parametrize(
    ("css", "image", "edges"),
    [
        ("img { width: 100%; border: 0; padding: 0 auto; border-radius: 4px }", "<img>", False),
        ("img { padding: 4px }", "<img>", True),
        (".card img { border-top: 1px solid }", "<img>", True),
        ("img { border-style: solid }", "<img>", True),
        ("img { border-style: none; border-color: red }", "<img>", False),
        (".thumb { border: 1px solid }", "<img>", False),
        ("img[src$='.jpg'] { border: 1px solid }", "<img src=a.jpg>", True),
        ("img[src$='.jpg'] { border: 1px solid }", "<img src=a.png>", False),
        (".thumb { border: 1px solid }", "<img class=thumb>", True),
        ("img { aspect-ratio: 1 }", "<img>", True),
        ("", "<img style='padding: 1px'>", True),
        ("* { box-sizing: border-box }", "<img>", False),
    ],
)
def test_rules_that_may_give_an_img_edges(css: str, image: str, *, edges: bool) -> None:
    rules = Rules(read_sheet(css).declarations)
    assert rules.has_edges((BODY, element_of(tag(PAGE))), tag(image)) == edges
