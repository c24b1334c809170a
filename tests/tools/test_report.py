"""What is drawn and written for people and for other programs."""

import io
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from sarvel.cli.ui.sarif import as_sarif
from sarvel.core.crop.place import Box
from sarvel.notices import Kind
from sarvel.pipeline.checker import FindingNotice
from sarvel.rules import RULES
from sarvel.tools.proof.contact_sheet import HEIGHT, MOST_CROPS, WIDTH, Shot, as_png, draw_panels, ratio_in_words
from sarvel.tools.proof.notes import ProofNotes
from sarvel.tools.proof.sheet_index import IndexEntry, draw_index, small_of
from sarvel.tools.proof.sheets import A_PAGE, OneEach, Pages
from tests.core.edition.test_compose import BANNER, LAMP, only


@pytest.mark.parametrize(
    ("ratio", "words"),
    [(0.8, "4:5"), (21 / 9, "7:3"), (1.4286, "10:7"), (1.433, "1.43:1"), (3.14159, "22:7"), (1, "1:1")],
)
def test_ratios_in_words(ratio: float, words: str) -> None:
    assert ratio_in_words(ratio) == words


def test_a_sheet_has_a_panel_for_each_few_crops() -> None:
    pixels = np.full((LAMP.height // 8, LAMP.width // 8, 3), 90, np.uint8)
    facts = replace(LAMP, width=pixels.shape[1], height=pixels.shape[0])
    picture = only(BANNER, facts)
    shots = [Shot(BANNER, crop, pixels) for crop in picture.crops]
    assert len(draw_panels(facts, pixels, shots)) == 1
    panels = draw_panels(facts, pixels, shots * MOST_CROPS)
    with Image.open(io.BytesIO(as_png(panels))) as sheet:
        assert len(panels) == 2 and sheet.size == (WIDTH, 2 * HEIGHT)
        assert len(sheet.convert("RGB").getcolors(1 << 20) or []) > 10
    assert "too small" in shots[0].trouble and shots[0].name == "banner · desktop"


def test_a_log_points_into_its_list_of_rules() -> None:
    names = ["alt-missing", "image-soft", "alt-missing"]
    log: dict[str, Any] = as_sarif(
        [FindingNotice(Kind.FINDING, "", "says", RULES[name].mend, rule=RULES[name], file="a b.html") for name in names]
    )
    (run,) = log["runs"]
    rules = [rule["id"] for rule in run["tool"]["driver"]["rules"]]
    assert (
        [rules[result["ruleIndex"]] for result in run["results"]]
        == [result["ruleId"] for result in run["results"]]
        == names
    )
    assert run["results"][0]["message"]["text"].endswith(RULES["alt-missing"].mend)
    assert run["results"][0]["locations"][0]["physicalLocation"]["artifactLocation"]["uri"] == "a%20b.html"


def test_an_index_names_every_master_with_its_page() -> None:
    small = small_of(Image.new("RGB", (900, 600), "#336699"))
    entries = [
        IndexEntry(
            "a-very-long-folder/and-a-name-as-long.jpg", small, 1 + i // 6, "choose a subject" if i < 2 else "", False
        )
        for i in range(9)
    ]
    index = draw_index(entries)
    assert index.width == WIDTH and max(small.size) <= 145
    colors = [color for _, color in index.getcolors(1 << 20) or []]
    assert (0x33, 0x66, 0x99) in colors and (0x8A, 0x5A, 0x00) in colors
    assert draw_index([]).width == WIDTH


def test_sheets_write_what_they_are_asked_for(tmp_path: Path) -> None:
    pixels = np.full((LAMP.height // 8, LAMP.width // 8, 3), 90, np.uint8)
    facts = replace(LAMP, width=pixels.shape[1], height=pixels.shape[0])
    told = ProofNotes("", "", False, (Box(0.1, 0.1, 0.5, 0.5), Box(0.2, 0, 1, 1)))
    for kind, name, count in ((Pages, "p.png", 1), (OneEach, "p.png", 1), (Pages, "q.png", 3)):
        sheets = kind(tmp_path / name)
        for _ in range(A_PAGE + 1 if count > 1 else 1):
            sheets.add(facts, pixels, [Shot(BANNER, crop, pixels) for crop in only(BANNER, facts).crops], told)
        files = sheets.written()
        assert len(files) == count and all(file.stat().st_size > 1000 for file in files)
    assert not Pages(tmp_path / "x.png").written()
