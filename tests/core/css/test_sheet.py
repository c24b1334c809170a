"""Stylesheets read: rules with their media, and nested ones as such that stand alone."""

import pytest

from sarvel.core.css.sheet import read_sheet


@pytest.mark.parametrize(
    ("css", "selector", "media"),
    [
        ("a { width: 1px }", "a", ()),
        ("@media print { a { width: 1px } }", "a", ("print",)),
        ("@supports (x: y) { @layer b { a { width: 1px } } }", "a", ()),
        # CSS Nesting 1, section 3: relative selectors, & where it stands, lists, conditions with declarations of their own.
        ("a { b { width: 1px } }", ":is(a) b", ()),
        ("a, .c { > b { width: 1px } }", ":is(a, .c) > b", ()),
        ("a { & + b, .d & { width: 1px } }", ":is(a) + b, .d :is(a)", ()),
        ("a { @media (min-width: 9px) { width: 1px } }", "a", ("(min-width: 9px)",)),
        ("@media print { a { @media (x) { &:hover { width: 1px } } } }", ":is(a):hover", ("print", "(x)")),
        ("a { b { c { width: 1px } } }", ":is(:is(a) b) c", ()),
        ("a { color red; b { width: 1px } }", ":is(a) b", ()),
    ],
)
def test_a_declaration_is_found_with_its_selector_and_media(css: str, selector: str, media: tuple[str, ...]) -> None:
    (found,) = (one for one in read_sheet(css).declarations if one.name == "width")
    assert (found.selector, found.media, css[found.start :].startswith("width: 1px")) == (selector, media, True)


def test_media_and_imports_of_all_depths() -> None:
    sheet = read_sheet("@import 'a.css'; @media print { a { @media (x) { b { width: 1px } } } }")
    assert (sheet.media, sheet.imports) == (("print", "(x)"), ("a.css",))
