"""What is drawn and written for people and for other programs."""

import io
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from PIL import Image

from sarvel.core.check.rule import RULES, Finding
from sarvel.report.contact_sheet import HEIGHT, MOST_CUTS, WIDTH, Shot, as_png, draw_panels, ratio_in_words
from sarvel.report.sarif import Located, as_sarif
from tests.core.edition.test_compose import BANNER, LAMP, only


@pytest.mark.parametrize(
    ("ratio", "words"),
    [(0.8, "4:5"), (21 / 9, "7:3"), (1.4286, "10:7"), (1.433, "1.43:1"), (3.14159, "22:7"), (1, "1:1")],
)
def test_ratios_in_words(ratio: float, words: str) -> None:
    assert ratio_in_words(ratio) == words


def test_a_sheet_has_a_panel_for_each_few_cuts() -> None:
    pixels = np.full((LAMP.height // 8, LAMP.width // 8, 3), 90, np.uint8)
    facts = replace(LAMP, width=pixels.shape[1], height=pixels.shape[0])
    picture = only(BANNER, facts)
    shots = [Shot(BANNER, cut, pixels) for cut in picture.cuts]
    assert len(draw_panels(facts, pixels, shots)) == 1
    panels = draw_panels(facts, pixels, shots * MOST_CUTS)
    with Image.open(io.BytesIO(as_png(panels))) as sheet:
        assert len(panels) == 2 and sheet.size == (WIDTH, 2 * HEIGHT)
        assert len(sheet.convert("RGB").getcolors(1 << 20) or []) > 10
    assert "too small" in shots[0].trouble and shots[0].name == "banner · desk"


def test_a_log_points_into_its_list_of_rules() -> None:
    names = ["alt-missing", "image-soft", "alt-missing"]
    log: dict[str, Any] = as_sarif([Located(Finding(name, 0, 1, "says"), "a b.html", (1, 2), (1, 3)) for name in names])
    (run,) = log["runs"]
    rules = [rule["id"] for rule in run["tool"]["driver"]["rules"]]
    assert (
        [rules[result["ruleIndex"]] for result in run["results"]]
        == [result["ruleId"] for result in run["results"]]
        == names
    )
    assert run["results"][0]["message"]["text"].endswith(RULES["alt-missing"].mend)
    assert run["results"][0]["locations"][0]["physicalLocation"]["artifactLocation"]["uri"] == "a%20b.html"
