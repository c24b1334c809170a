"""Boxes of images: each fault beside its clean twin. What Chromium makes of them: tests/browser/test_boxes.py."""

import pytest

from sarvel.core.check.all_rules import check
from sarvel.core.check.boxes import check_boxes
from sarvel.core.check.context import Context, LinkedFile
from sarvel.core.css.sheet import read_sheet
from sarvel.core.html.document import read_document
from sarvel.core.html.page_styles import PageStyles

HEAD = '<!doctype html><html><head><meta name="viewport" content="width=device-width">{}</head><body>'
SIZED = '<img src="a.webp" alt="" width="800" height="600">'
LISTED = '<img src="a.webp" srcset="a.webp 400w, b.webp 800w" sizes="100vw" alt="" style="{}">'
AUTO = '<img src="a.webp" srcset="a.webp 400w, b.webp 800w" sizes="auto, 400px" loading="lazy" alt="" style="{}"{}>'

# Styles, what stands in the body, and the rule that is broken; "" for none.
CASES = [
    ("img { width: 100% }", SIZED, "height-stays"),
    ("img { max-width: 100% }", SIZED, "height-stays"),
    ("img { max-width: 20rem }", SIZED, "height-stays"),
    (".card > img { width: 240px }", f'<div class="card">{SIZED}</div>', "height-stays"),
    ("img { width: 50vw }", SIZED, "height-stays"),
    ("@media (min-width: 1000px) { img { inline-size: 300px } }", SIZED, "height-stays"),
    ("", SIZED.replace("<img", '<img style="width: 200px"'), "height-stays"),
    ("img { width: 100%; height: auto }", SIZED, ""),
    ("img { width: 100% } :where(img) { height: auto }", SIZED, ""),
    ("img { max-width: 100%; block-size: auto }", SIZED, ""),
    ("img { max-width: 100%; object-fit: cover }", SIZED, ""),
    (".other img { width: 100% }", SIZED, ""),
    ("img { width: 100% } .fixed img { width: 800px !important }", f'<p class="fixed">{SIZED}</p>', ""),
    ("img { width: 100% }", SIZED.replace("800", "200"), ""),  # in a container of 200 px nothing is squeezed
    ("img { max-width: 100% }", SIZED.replace(' height="600"', ""), ""),
    ("@import 'gone.css'; img { width: 100% }", SIZED, ""),
    ("@import 'https://fonts.example/a.css'; img { width: 100% }", SIZED, "height-stays"),
    ("img { max-width: 100%; aspect-ratio: 2 }", LISTED.format(""), "sizes-beyond-the-files"),
    ("img { max-width: 100% }", LISTED.format("aspect-ratio:2").replace("100vw", "min(100vw, 800px)"), ""),
    ("img { max-width: 700px }", LISTED.format("aspect-ratio:2"), "sizes-contradict-the-style"),
    ("img { max-width: 700px }", LISTED.format("aspect-ratio:2").replace("100vw", "min(100vw, 700px)"), ""),
    ("img { width: 300px; height: auto }", LISTED.format(""), "sizes-contradict-the-style"),
    ("img { width: 300px; height: auto }", LISTED.format("").replace("100vw", "300px"), ""),
    (
        "img { width: 700px; max-width: 100%; height: auto }",
        LISTED.format("").replace("100vw", "min(100vw, 700px)"),
        "",
    ),
    ("img { width: var(--w); height: auto }", LISTED.format(""), ""),
    ("img { width: 100%; aspect-ratio: 2 }", LISTED.format(""), ""),
    ("", LISTED.format("aspect-ratio:2;height:200px"), ""),
    ("img { max-width: 100% }", AUTO.format("aspect-ratio:2", ""), "auto-without-width"),
    ("img { width: 100% }", AUTO.format("border:0", ""), "auto-without-width"),
    ("img { width: 100%; height: auto }", AUTO.format("", ' width="800" height="600"'), ""),
    ("img { width: 300px; aspect-ratio: 2 }", AUTO.format("", ""), ""),
    ("img { height: 300px; aspect-ratio: 2 }", AUTO.format("", ""), ""),
    ("img { max-width: 100% }", AUTO.format("aspect-ratio:2", "").replace("lazy", "eager"), ""),
]


def page_of(css: str, body: str) -> str:
    return HEAD.format(f"<style>{css}</style>") + body


@pytest.mark.parametrize(("css", "body", "rule"), CASES)
def test_boxes(css: str, body: str, rule: str) -> None:
    page = read_document(page_of(css, body))
    styles = PageStyles(page, [image.tag for image in page.images], lambda _: None)
    found = list(check_boxes(page, styles, Context()))
    assert [one.rule for one in found] == ([rule] if rule else [])
    assert all(page.text[one.start : one.end].startswith(("height=", "sizes=", "<img")) for one in found)


def test_rules_are_taken_from_linked_sheets() -> None:
    text = HEAD.format('<link rel="stylesheet" href="a.css"><link rel="stylesheet" href="b.css">') + SIZED
    sheets = {"a.css": read_sheet("img { width: 50% }"), "b.css": read_sheet("p img { height: auto }")}
    files = LinkedFile(800, 600, "image/webp")

    def rules() -> set[str]:
        return {one.rule for one in check(read_document(text), Context(lambda _: files, sheets.get))}

    assert rules() == {"height-stays"}
    sheets["b.css"] = read_sheet("img { height: auto }")
    assert rules() == set()
    del sheets["b.css"]
    assert rules() == set(), "a sheet that is not at hand may say it"


@pytest.mark.parametrize(
    ("css", "told"),
    [("", True), ("img { aspect-ratio: 3/2 }", False), ("img { width: 9px; height: 9px }", False), ("img { width: 100%; height: auto }", True), ("img { height: 50% }", True), ("p img { aspect-ratio: 1 }", True)],
)  # fmt: skip
def test_a_ratio_in_a_stylesheet_says_the_size(css: str, told: bool) -> None:
    found = check(read_document(page_of(css, '<img src="a.webp" alt="">')), Context())
    assert ("size-not-said" in {one.rule for one in found}) == told
