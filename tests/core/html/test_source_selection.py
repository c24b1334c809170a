"""Selection: what a real browser picked from 800 pieces of markup on five devices each, and the standard's own rules."""

import json
from pathlib import Path

import pytest

import sarvel
from sarvel.core.css.device import Device
from sarvel.core.html.document import read_document
from sarvel.core.html.sizes import parse_sizes, sizes_on
from sarvel.core.html.source_selection import passed_over, pick
from sarvel.core.html.srcset import Candidate, parse_srcset

RECORDS = [json.loads(line) for line in (Path(__file__).parent / "picks" / "chromium.jsonl").read_text().splitlines()]
PHONE, DESK = Device(390, 844, 3), Device(1440, 900, 1)


@pytest.mark.parametrize("kind", ["img-w", "img-x", "picture"])
def test_all_picks_of_a_real_browser(kind: str) -> None:
    asked = [(one, seen) for one in RECORDS if one["kind"] == kind for seen in one["picks"]]
    wrong = [
        (one["id"], seen)
        for one, seen in asked
        if sarvel.pick_source(one["html"], sarvel.Device(seen["width"], seen["height"], seen["dpr"])) != seen["src"]
    ]
    assert asked and wrong == []


def test_there_are_4000_of_them() -> None:
    assert sum(len(one["picks"]) for one in RECORDS) == 4000


@pytest.mark.parametrize(
    ("text", "candidates"),
    [
        ("a.png", [Candidate("a.png")]),
        ("a.png, b.png 2x", [Candidate("a.png"), Candidate("b.png", density=2)]),
        ("a,b.png 100w", [Candidate("a,b.png", 100)]),
        (" ,\t, a.png 1.5e1x ,,", [Candidate("a.png", density=15)]),
        ("a.png,,, b.png", [Candidate("a.png"), Candidate("b.png")]),
        ("a.png 100w 50h", [Candidate("a.png", 100)]),
        ("data:x,y 2x", [Candidate("data:x,y", density=2)]),
        ("", []),
    ],
)
def test_srcset(text: str, candidates: list[Candidate]) -> None:
    assert parse_srcset(text) == candidates


@pytest.mark.parametrize(
    "descriptors",
    ["0w", "-1w", "+1w", "1.5w", "1e3w", "w", "1W", "-1x", "+1x", "infx", "x", "2X", "1.x", "50h", "1w 2w", "1w 2x", "1x 2x", "2x 5h", "(1w", "1w (a, b)", "9" * 99 + "w"],
)  # fmt: skip
def test_candidates_that_browsers_drop(descriptors: str) -> None:
    (candidate,) = parse_srcset(f"a.png {descriptors}")
    assert candidate.fault and candidate.url == "a.png"


@pytest.mark.parametrize(
    ("sizes", "device", "css"),
    [
        ("50vw", PHONE, "50vw"),
        ("(min-width: 600px) 50vw, 80vw", PHONE, "80vw"),
        ("(min-width: 600px) 50vw, 80vw", DESK, "50vw"),
        ("(min-width: 600px) 50vw", PHONE, "100vw"),
        ("", PHONE, "100vw"),
        ("auto, 40vw", PHONE, "40vw"),
        ("50%, -5px, 5, 40vw", PHONE, "40vw"),
        ("screen and (min-width: 1px) 50vw, 40vw", PHONE, "40vw"),  # an entry takes a condition, no media type
        ("(bogus: 1) 50vw, not (bogus: 1) 30vw, 40vw", PHONE, "40vw"),
        ("/* a, b */ (orientation: portrait)/**/50vw, 40vw", PHONE, "50vw"),
        ("min(10px, 20px), 40vw", PHONE, "min(10px, 20px)"),
    ],
)
def test_sizes(sizes: str, device: Device, css: str) -> None:
    assert sizes_on(parse_sizes(sizes), device).css == css


@pytest.mark.parametrize(
    ("markup", "device", "url"),
    [
        ("<img src=a.png>", PHONE, "a.png"),
        ("<p>none</p>", PHONE, ""),
        ("<img alt=none>", PHONE, ""),
        ("<img srcset='a.png 2x' src=b.png>", DESK, "b.png"),
        ("<img srcset='a.png 1x' src=b.png>", DESK, "a.png"),
        ("<img srcset='a.png 100w' sizes='0px' src=b.png>", DESK, "a.png"),
        ("<img srcset='a.png 2x, b.png 2x'>", DESK, "a.png"),  # of two equal densities the first
        ("<picture><source srcset=a.png media='(min-width: 600px)'><img src=b.png></picture>", PHONE, "b.png"),
        ("<picture><source srcset=a.png media='(min-width: 600px)'><img src=b.png></picture>", DESK, "a.png"),
        ("<picture><div><source srcset=a.png></div><img src=b.png></picture>", DESK, "b.png"),
        ("<picture><img src=b.png><source srcset=a.png></picture>", DESK, "b.png"),
        ("<picture><source srcset=a.png></picture><img src=b.png>", DESK, "b.png"),
        ("<picture><source srcset=a.jp2 type=image/jp2><img src=b.png></picture>", DESK, "b.png"),
        ("<picture><source srcset=a.png media='(prefers-color-scheme: dark)'><img src=b.png></picture>", Device(9, 9, color_scheme="dark"), "a.png"),
    ],
)  # fmt: skip
def test_picks(markup: str, device: Device, url: str) -> None:
    assert sarvel.pick_source(markup, device) == url


@pytest.mark.parametrize("nested", ["(", "calc(", "(not ", "[", "min("])
def test_brackets_without_end_are_no_length_and_no_condition(nested: str) -> None:
    for markup in (
        "<img srcset='a.png 100w, b.png 400w' sizes='{}'>",
        "<picture><source srcset=c media='{}'><img src=b.png></picture>",
    ):
        assert sarvel.pick_source(markup.format(nested * 5000), PHONE) == "b.png"


def test_a_pick_explains_itself() -> None:
    page = (
        "<picture><source srcset='a.avif 1x' media='print'><source srcset='b.jp2' type='image/jp2'><source src=c>"
        "<source srcset='d foo'><img srcset='e.png 400w, f.png 900w, g.png 5h' sizes='100vw' src=h.png></picture>"
    )
    (image,) = (one.element for one in read_document(page).images)
    found = pick(image, PHONE)
    assert (found.url, found.source, found.shown) == ("f.png", None, 390)
    assert passed_over(image, PHONE) == [
        "source 1: media print does not hold",
        "source 2: type image/jp2 is not understood",
        "source 3: has no srcset",
        "source 4: d dropped: 'foo' is not a descriptor",
        "source 4: has no candidate that counts",
        "img: g.png dropped: '5h' needs a width descriptor too",
    ]
