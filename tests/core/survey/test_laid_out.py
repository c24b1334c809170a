"""Widths that stylesheets lay out, without a browser: right, or left open."""

import pytest

from sarvel.core.css.device import Device
from sarvel.core.css.sheet import media_of
from sarvel.core.html.document import read_document
from sarvel.core.html.page_styles import PageStyles
from sarvel.core.layout.fitted import Fitted, fit_shown
from sarvel.core.survey.breakpoints import breakpoints_of
from sarvel.core.survey.laid_out import laid_out
from tests.browser.test_measure import CSS, IMG, LAYOUTS, page_of


def fitted(text: str, css: str, natural: int = 4000) -> Fitted | None:
    """The width of the first image of a page."""
    page = read_document(text)
    tag = page.images[0].tag
    starts = breakpoints_of(media_of(css))
    box = laid_out(tag, natural, PageStyles(page, [tag], lambda _: None), starts)
    return fit_shown(box.widths, box.pulls, 900) if box else None


SURE = {"grid with gaps", "paddings in rem", "greatest width", "aspect box", "clamp", "full bleed"}


@pytest.mark.parametrize(
    ("name", "body", "truth"), [(name, *case) for name, case in LAYOUTS.items()], ids=list(LAYOUTS)
)
def test_layouts_that_a_browser_was_asked_about(name: str, body: str, truth: dict[int, str]) -> None:
    """The truth of each case is held against Chromium in tests/browser/test_measure.py."""
    found = fitted(page_of(body), CSS)
    assert found is not None or name not in SURE
    for width in range(240, 3840, 7) if found else ():
        wanted = Fitted(tuple(truth.items()), 0).on(Device(width, 900))
        assert found and abs(found.on(Device(width, 900)) - wanted) <= 0.5, (width, found)


# CSS, the body, and the sizes that follow by CSS 2, section 10.3; None where more than the stylesheet decides.
CASES = {
    "margins of browsers": ("img { width: 100% }", f"<figure>{IMG}</figure>", "calc(100vw - 96px)"),
    "a list's padding": ("body { margin: 0 } img { width: 100% }", f"<ul><li>{IMG}</ul>", "calc(100vw - 40px)"),
    "no padding of its own": ("body { margin: 0 } ul { padding: 0 } img { width: 100% }", f"<ul><li>{IMG}</ul>", "100vw"),
    "four sides": ("body { margin: 1px 2px 3px 4px } img { width: 100% }", IMG, "calc(100vw - 6px)"),
    "three sides": ("body { margin: 0 } main { padding: 1px 10px 3px } img { width: 100% }", f"<main>{IMG}</main>", "calc(100vw - 20px)"),
    "a border": ("body { margin: 0 } p { border: 5px solid } img { width: 100% }", f"<p>{IMG}", "calc(100vw - 10px)"),
    "a border box": ("* { box-sizing: border-box } body { margin: 0 } p { width: 300px; padding: 10px } img { width: 100% }", f"<p>{IMG}", "280px"),
    "a content box": ("body { margin: 0 } p { width: 300px; padding: 10px } img { width: 100% }", f"<p>{IMG}", "300px"),
    "inline elements": ("body { margin: 0 } img { width: 50% }", f"<p><a href=x><span>{IMG}</span></a>", "50vw"),
    "its own file": ("body { margin: 0 } img { max-width: 100% }", IMG, "min(100vw, 1000px)"),
    "a width attribute": ("body { margin: 0 }", '<img src="a.png" width="320">', "320px"),
    "a grid": ("body { margin: 0 } p { display: grid; grid-template-columns: 1fr 1fr; gap: 20px } img { width: 100% }", f"<p>{IMG}", "calc(50vw - 10px)"),
    "a column of flex items": ("body { margin: 0 } main { display: flex; flex-direction: column } img { width: 100% }", f"<main><p>{IMG}</p></main>", "100vw"),
    "a row of flex items": ("main { display: flex } img { width: 100% }", f"<main><p>{IMG}</p></main>", None),
    "a float": ("p { float: left } img { width: 100% }", f"<p>{IMG}", None),
    "a table": ("img { width: 100% }", f"<table><tr><td>{IMG}</table>", None),
    "a variable": ("img { width: var(--w) }", IMG, None),
    "em": ("img { width: 20em }", IMG, None),
    "another rem": ("html { font-size: 62.5% } img { width: 20rem }", IMG, None),
    "a sheet that is not at hand": ("</style><link rel=stylesheet href=x.css><style>", IMG, None),
}  # fmt: skip


@pytest.mark.parametrize(("css", "body", "sizes"), CASES.values(), ids=CASES)
def test_normal_flow(css: str, body: str, sizes: str | None) -> None:
    found = fitted(page_of(body, css), css, 1000)
    assert (found.steps if found else None) == (((0, sizes),) if sizes else None)
