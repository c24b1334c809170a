"""Slots that no image of a page is for."""

from pathlib import Path

import pytest

from sarvel.pages.read.asks import read_page
from sarvel.pages.read.page_files import PageFile
from sarvel.pipeline.roots import project_of
from sarvel.pipeline.unused import unused_slots
from sarvel.plan.read import plan_from

PAGE = '<div class="cards"><img class="card wide" src="masters/a.jpg" alt="A"></div><img data-sarvel="named" src="masters/a.jpg" alt="B">'


@pytest.mark.parametrize(
    ("slot", "told"),
    [
        ({"selectors": [".card"]}, None),
        ({"selectors": [".cardd"]}, "no image that can be woven matches .cardd; did you mean .card?"),
        ({"selectors": [".grid .photograph"]}, "no image that can be woven matches .grid .photograph; correct selectors, or remove the slot"),
        ({}, "no image names it; write data-sarvel on an img, or remove it"),
        ({"masters": ["*.jpg"]}, None),
    ],
)  # fmt: skip
def test_a_slot_that_is_for_nothing(tmp_path: Path, slot: dict[str, object], told: str | None) -> None:
    (tmp_path / "masters").mkdir()
    (tmp_path / "masters" / "a.jpg").touch()
    (tmp_path / "index.html").write_text(PAGE)
    slots = {"one": {"sizes": "100px", **slot}, "named": {"sizes": "100px"}}
    plan = plan_from({"site": {"pages": ["*.html"]}, "slots": slots}, tmp_path / "sarvel.toml", {})
    page = tmp_path / "index.html"
    read = read_page(PageFile(page, page), plan.slots, project_of(plan), plan.masters_folder)
    found = [f"{one.text}; {one.cure}" for one in unused_slots(plan, [read])]
    assert found == ([told] if told else [])
