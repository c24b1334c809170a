"""Traits that stylesheets give an image."""

import pytest

from sarvel.core.html.document import read_document
from sarvel.core.html.page_styles import PageStyles
from sarvel.core.survey.traits import Traits, traits_of

FLUID = "img { max-width: 100% }"


@pytest.mark.parametrize(
    ("css", "more", "traits"),
    [
        ("", "", Traits(natural=True)),
        (FLUID, "", Traits()),
        (FLUID, "width=300", Traits()),
        ("", "width=300", Traits()),
        ("img { width: 150px }", "", Traits(shown=150, most=150)),
        ("img { width: 10rem; max-width: 100% }", "", Traits(shown=160, most=160)),
        ("img { width: 10em }", "", Traits()),
        ("img { max-width: 12rem }", "", Traits(most=192)),
        ("img { width: 300px } @media (min-width: 800px) { img { width: 500px } }", "", Traits(most=500)),
        ("@media (max-width: 800px) { img { width: 100% } }", "", Traits(natural=True)),
        ("img { height: 200px }", "", Traits()),
        (FLUID + "img { object-fit: none }", "", Traits(natural=True)),
        (FLUID + "img { aspect-ratio: 1 }", "", Traits(shaped=True)),
        (FLUID + "p > img { margin: 0 }", "", Traits(by_place="p > img")),
        ("@import 'gone.css';", "", Traits()),
        (FLUID + "p { display: table-cell }", "", Traits()),
        (FLUID + "p { display: flex }", "", Traits()),
        (FLUID + "body { display: flex }", "", Traits(natural=True)),
        (FLUID + "body { display: flex; flex-flow: column wrap }", "", Traits()),
        (FLUID + "body { display: flex } p { flex: 1 }", "", Traits()),
        (FLUID + "body { display: flex } p { flex: 1 1 auto }", "", Traits(natural=True)),
        (FLUID + "body { display: flex } p { flex: 0 0 50% }", "", Traits()),
        (FLUID + "body { display: flex } p { width: 50% }", "", Traits()),
        (FLUID + "body { display: grid; grid-template-columns: auto 1fr }", "", Traits(natural=True)),
        (FLUID + "body { display: grid; grid-template-columns: repeat(auto-fill, 9em) }", "", Traits()),
    ],
)
def test_traits(css: str, more: str, traits: Traits) -> None:
    page = read_document(f"<!doctype html><head><style>{css}</style></head><p><img src=a.jpg {more}></p><b>x</b>")
    (image,) = page.images
    assert traits_of(image.tag, PageStyles(page, [image.tag], lambda _: None)) == traits
