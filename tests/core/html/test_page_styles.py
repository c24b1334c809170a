"""Styles of elements: which rules mean them, which win, and which mean others once an image stands in a picture."""

import copy
from xml.etree.ElementTree import Element, SubElement, tostring

import pytest
from cssselect2 import ElementWrapper, SelectorError, compile_selector_list
from hypothesis import given, settings
from hypothesis import strategies as st

from sarvel.core.css.device import Device
from sarvel.core.css.sheet import read_sheet
from sarvel.core.html.document import read_document
from sarvel.core.html.page_styles import PageStyles

BODY = '<div class="row"><figure class="wide"><img class="a b" id="x" src="y"></figure><p>text</p></div>'


def styles_of(css: str, body: str = BODY) -> tuple[PageStyles, object]:
    page = read_document(f"<head><style>{css}</style></head>{body}")
    tag = page.images[0].tag
    return PageStyles(page, [tag], lambda _: None), tag


@pytest.mark.parametrize(
    ("css", "width"),
    [
        ("img { width: 1px } img { width: 2px }", "2px"),
        (".a { width: 1px } img { width: 2px }", "1px"),
        ("#x { width: 1px } .a.b { width: 2px }", "1px"),
        ("img { width: 1px !important } #x { width: 2px }", "1px"),
        (":where(#x) { width: 1px } img { width: 2px }", "2px"),
        (".row > img { width: 1px }", None),
        (".row .wide > img, p { width: 1px }", "1px"),
        ("@media (min-width: 800px) { img { width: 1px } }", None),
        ("@media (max-width: 800px) { img { width: 1px } }", "1px"),
        ("img { inline-size: 1px }", "1px"),
        ("img:unknown-thing { width: 1px }", None),
        ("img::before { width: 1px }", None),
        ("[src] { width: 1px }", "1px"),
        (":is(figure, p) > * { width: 1px }", "1px"),
    ],
)
def test_the_rule_that_wins(css: str, width: str | None) -> None:
    """CSS Cascading 4, section 6; Selectors 4, section 17."""
    styles, tag = styles_of(css)
    assert styles.values(tag, Device(400, 800)).get("width") == width  # type: ignore[arg-type]


def test_a_style_attribute_wins_over_rules_but_not_over_important_ones() -> None:
    body = '<img style="width: 3px; height: 3px">'
    styles, tag = styles_of("img { width: 1px; height: 1px !important }", body)
    assert styles.values(tag, Device(400, 800)) == {"width": "3px", "height": "1px"}  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("css", "selector"),
    [
        ("img { width: 1px } .row img { width: 1px }", ""),
        ("figure > img { width: 1px }", "figure > img"),
        (".row > * { margin: 0 } figure > * { margin: 0 }", "figure > *"),
        ("figure img:first-child { margin: 0 }", ""),
        ("figure:has(> img) { margin: 0 }", "figure:has(> img)"),
        (".a + p { margin: 0 }", ""),
        ("picture img { margin: 0 }", "picture img"),
    ],
)
def test_rules_that_reach_an_image_by_its_place(css: str, selector: str) -> None:
    styles, tag = styles_of(css)
    assert styles.changed_by_picture(tag) == selector  # type: ignore[arg-type]


def test_a_rule_that_reaches_what_follows_an_image() -> None:
    styles, tag = styles_of("img + p { margin: 0 }", "<div><img><p>text</p></div>")
    assert styles.changed_by_picture(tag) == "img + p"  # type: ignore[arg-type]


COMPOUNDS = st.sampled_from(
    ["*", "img", "p", ".x", ":first-child", "img:last-of-type", ":only-of-type", "p:empty", "div:has(> img)", "picture"]
)
SELECTORS = st.tuples(COMPOUNDS, st.sampled_from([" ", ">", "+", "~"]), COMPOUNDS).map("".join)
CHILDREN = st.lists(st.tuples(st.sampled_from(["img", "p", "div"]), st.sampled_from(["", "x"])), min_size=1, max_size=4)


def meant(css: str, tree: Element) -> list[bool]:
    """Of each element that is no picture, whether a selector means it, by cssselect2 alone."""
    try:
        tests = compile_selector_list(css)
    except SelectorError:
        return []
    elements = ElementWrapper.from_html_root(tree).iter_subtree()
    return [any(one.test(element) for one in tests) for element in elements if element.local_name != "picture"]


@given(st.lists(SELECTORS, min_size=1, max_size=2, unique=True), st.lists(CHILDREN, min_size=1, max_size=2))
@settings(max_examples=500)
def test_rules_that_pictures_change_are_found_by_trying_them_all(selectors: list[str], around: list) -> None:  # type: ignore[type-arg]
    tree = Element("html")
    SubElement(tree, "head")
    body = SubElement(tree, "body")
    for children in around:
        block = SubElement(body, "div")
        for name, class_ in children:
            SubElement(block, name, {"class": class_})
    wrapped = copy.deepcopy(tree)
    for block in wrapped.iter("div"):
        for number, one in enumerate(block):
            if one.tag == "img":
                block[number] = Element("picture")
                block[number].append(one)
    changed = {css for css in selectors if meant(css, tree) != meant(css, wrapped)}
    page = read_document(tostring(tree, encoding="unicode", method="html"))
    style = read_sheet("".join(f"{css} {{ margin: 0 }}" for css in selectors))
    link = read_document('<link rel="stylesheet" href="a.css">' + page.text)
    styles = PageStyles(link, [image.tag for image in link.images], lambda _: style)
    found = {styles.changed_by_picture(image.tag) for image in link.images} - {""}
    assert found <= changed
    assert bool(found) == bool(changed)


@pytest.mark.parametrize(
    ("text", "complete"),
    [("<img>", False), ("<head></head><img>", True), ("<style>p { margin: 0 }</style><img>", True)],
)
def test_of_a_part_of_a_page_nothing_is_known(text: str, complete: bool) -> None:
    page = read_document(text)
    assert PageStyles(page, [page.images[0].tag], lambda _: None).complete is complete


def test_sheets_that_are_not_at_hand() -> None:
    page = read_document('<link rel="stylesheet" href="a.css"><img>')
    (image,) = page.images
    assert not PageStyles(page, [image.tag], lambda _: None).complete
    known = PageStyles(page, [image.tag], lambda _: read_sheet("@import 'https://fonts.example/x'; img { width: 1px }"))
    assert known.complete and known.may_set(image.tag, "width") and not known.may_set(image.tag, "height")
