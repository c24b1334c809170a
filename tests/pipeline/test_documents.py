"""Finished pages: slots and masters of their images come from the pages that they were woven from."""

from pathlib import Path

import pytest

from sarvel.pipeline.documents import document_of
from sarvel.plan.read import read_plan

SOURCE = '<img src="logo.svg"><img data-sarvel="badge" src="masters/a.jpg"><img data-sarvel="none" src="masters/a.jpg">'
WOVEN = '<img src="logo.svg"><picture><source srcset="a.webp"><img src="a.jpg"></picture><img data-sarvel="none" src="masters/a.jpg">'


@pytest.mark.parametrize(
    ("place", "expected"),
    [
        ("public/log/index.html", [("", ""), ("badge", "masters/a.jpg"), ("none", "")]),
        ("public/log/other.html", [("", ""), ("", ""), ("none", "")]),
        ("elsewhere/index.html", [("", ""), ("", ""), ("none", "")]),
    ],
)
def test_slots_and_masters_of_a_finished_page(place: str, expected: list[tuple[str, str]], tmp_path: Path) -> None:
    for name in ("pages/log/index.html", "masters/a.jpg"):
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).write_text(SOURCE)
    (tmp_path / "sarvel.toml").write_text(
        '[site]\npages = ["pages/*/*.html"]\nwoven = "public/log"\n[slots.badge]\nsizes = "40px"\n'
        if "log" not in place
        else '[site]\npages = ["pages"]\nwoven = "public"\n[slots.badge]\nsizes = "40px"\n'
    )
    plan = read_plan(tmp_path / "sarvel.toml")
    document = document_of(WOVEN, tmp_path / place, plan)
    assert [(one.slot, one.master) for one in document.images] == expected
