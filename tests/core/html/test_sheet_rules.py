"""Rules found by a word that an element must have: the same ones as by trying every selector."""

import contextlib
from xml.etree.ElementTree import Element, SubElement, tostring

from cssselect2 import ElementWrapper, SelectorError, compile_selector_list
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.css.sheet import read_sheet
from sarvel.core.html.lone_element import names_in
from sarvel.core.html.sheet_rules import rules_of

COMPOUNDS = st.sampled_from(
    ["*", "a", "IMG", ".x", "#i", "a.x", ".x.y", "img#i.y", "[id]", '[class~="y"]', ":not(.x, #i)", ":is(a, .y) ", ".x:first-child", "a::after",
     ":root", "a:where(.x > *)", "\\61 ", ".x\\:y", "p:has(.y, a)", "::before", '[class$="y"]', "[class='x, .q']:not([id=\"'\"])",
     '[id="\\"]"]', ".\\31 0\\.5", ".\\78\\:y", ".x\\+y", "*|a", ":not(:not(:is(:where(.x))))"]
)  # fmt: skip
SELECTORS = st.lists(
    st.tuples(COMPOUNDS, st.sampled_from(["", " a", ">img", " + .x", "~*", " p .y"])).map("".join),
    min_size=1,
    max_size=3,
).map(", ".join)
NAMES = st.sampled_from(["a", "img", "p"])
CLASSES = st.sampled_from(["", "x", "y", "x y", "x:y", "10.5", "x+y"])
ELEMENTS = st.lists(st.tuples(NAMES, CLASSES, st.sampled_from(["", "i"]), st.booleans()), min_size=1, max_size=5)


def tree_of(elements: list[tuple[str, str, str, bool]]) -> ElementWrapper:
    """Each element in the one before, or next to it."""
    root = around = last = Element("html")
    for name, classes, id_, within in elements:
        around = last if within else around
        last = SubElement(around, name, {key: value for key, value in (("class", classes), ("id", id_)) if value})
    return ElementWrapper.from_html_root(root)


@given(st.lists(SELECTORS, min_size=1, max_size=4, unique=True), ELEMENTS)
def test_the_rules_that_mean_an_element(lists: list[str], elements: list[tuple[str, str, str, bool]]) -> None:
    rules = rules_of(read_sheet("\n".join(f"{css} {{ width: 1px }}" for css in lists)))
    tree = tree_of(elements)
    names = names_in(tostring(tree.etree_element, encoding="unicode"))
    for element in tree.iter_subtree():
        wanted: dict[str, tuple[int, int, int]] = {}
        for css in rules.by_selector:
            with contextlib.suppress(SelectorError):  # a browser drops such a rule
                means = [one for one in compile_selector_list(css) if not one.pseudo_element and one.test(element)]
                wanted |= {css: max(one.specificity for one in means)} if means else {}
        assert rules.meant(element, names) == wanted


def test_a_stylesheet_is_sorted_once() -> None:
    sheet, same_words = read_sheet("a { width: 1px }"), read_sheet("a { width: 1px } ")
    assert rules_of(sheet) is rules_of(sheet) is not rules_of(same_words)
    assert read_sheet("a { width: 1px }") is sheet
