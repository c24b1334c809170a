"""Stylesheets read: rules with their media, and nested ones as such that stand alone."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.css.sheet import media_of, naming_files, read_sheet


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
    css = "@import 'a.css'; @media print { a { @media (x) { b { width: 1px } } } } /* @media (y) { */"
    assert (media_of(css), read_sheet(css).imports) == (["print", "(x)"], ("a.css",))


PIECES = st.sampled_from(
    [
        "a { background: url(a.png) }", "@media (x) { b { mask: url('b;}.png') } }", "c { color: red }", "@import url(c.css);",
        "/* url(d.png) { */", "d { content: '}' }", 'e { &:hover { background: image-set("e.png" 1x, "f.png" 2x) } }',
        "f { background: url( g;}h.png ) }", "}", "{", "@layer x;", "g\\{ { background: url(i.png) }", "\r\n", ";", "(", "é",
    ]
)  # fmt: skip


@given(st.lists(PIECES, max_size=6).map(" ".join))
def test_what_names_files_is_the_same_read_alone(css: str) -> None:
    whole = [one for one in read_sheet(css).declarations if one.urls]
    assert [(one.start, one.urls) for one in naming_files(css)] == [(one.start, one.urls) for one in whole]
