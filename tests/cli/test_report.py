"""`sarvel report` through the installed program; its numbers are those of the other commands."""

import json
import re
from pathlib import Path

import pytest

from tests.conftest import Run


@pytest.fixture
def built(rendered: Path, sarvel: Run) -> Path:
    assert sarvel("build").returncode == 0
    return rendered


def test_numbers_are_those_of_build_plan_and_pick(built: Path, sarvel: Run) -> None:
    done = sarvel("report", "--json")
    assert done.returncode == 0
    document = json.loads(done.stdout)
    report, page = document["report"], (built / "report.html").read_text()
    assert document["written"] == ["report.html"] and page.startswith("<!doctype html>")

    build = json.loads(sarvel("build", "--json").stdout)
    assert report["pages_fetch"] == build["pages_fetch"]
    for one, other in zip(report["pictures"], build["pictures"], strict=True):
        for key in ("slot", "master", "master_bytes", "files", "bytes"):
            assert one[key] == other[key]
        for device, fetch in other["fetched"].items():
            assert {key: one["fetched"][device][key] for key in fetch} == fetch

    plan = json.loads(sarvel("plan", "--json").stdout)
    crops = {
        (slot["slot"], crop["crop"]): crop
        for slot in plan["slots"]
        for one in slot["pictures"]
        for crop in one["crops"]
    }
    for one in report["pictures"]:
        for crop in one["crops"]:
            told = crops[one["slot"], crop["crop"]]
            for key in (
                "media",
                "widths",
                "sizes",
                "excess",
                "one_for_all",
                "worst_soft",
                "worst_soft_on",
                "worst_waste",
                "worst_waste_on",
            ):
                assert crop[key] == told[key], key

    picked = json.loads(sarvel("pick", report["pages"][0]["page"], "--device", "360x740@3", "--json").stdout)
    shown = report["pages"][0]["devices"]["360x740@3"]
    assert [one["file"] for one in shown] == [
        image["devices"][0]["url"].rsplit("/", 1)[-1] for image in picked["images"]
    ]
    assert [one["weight"] for one in shown] == [image["devices"][0]["bytes"] for image in picked["images"]]


def test_a_page_for_a_review(built: Path, sarvel: Run) -> None:
    (built / "before.json").write_text(sarvel("report", "--json").stdout)
    plan = built / "sarvel.toml"
    plan.write_text(plan.read_text().replace("webp = 20", "webp = 40"))
    sarvel("build")
    text = sarvel("report", "--markdown", "--since", "before.json").stdout
    assert text.startswith("## Images of site\n") and "### What changed" in text
    assert re.search(r"\| `gull\.jpg` in banner \| 360x740@3 \| [\d.]+ kB \| [\d.]+ kB \| \+[\d.]+ kB \|", text)
    assert "data:image" not in text
    done = sarvel("report", "--markdown", "--pictures", "--output", "review.md")
    assert done.stdout == "written: review.md\n" and "data:image" in (built / "review.md").read_text()
    page = sarvel("report", "--since", "before.json", "--output", "site/r.html")
    assert page.returncode == 0 and "since the last report" in (built / "site" / "r.html").read_text()


def test_the_same_site_gives_the_same_bytes(built: Path, sarvel: Run) -> None:
    sarvel("report", "--workers", "1")
    first = (built / "report.html").read_bytes()
    sarvel("report", "--workers", "3")
    assert (built / "report.html").read_bytes() == first and b"data:image/webp" in first


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["--since", "sarvel.toml"], "--since sarvel.toml: cannot be read (JSONDecodeError); write it with sarvel report --json > FILE"),
        (["--since", "other.json"], "--since other.json: is no document of a report; write one with sarvel report --json"),
        (["--confirmed", "other.json"], "--confirmed other.json: is no document of sarvel confirm; write it with --json > FILE"),
        (["--output", "masters/gull.jpg"], "is read by the plan, and nothing is written onto it"),
        (["--compare", "-1"], "got '-1', write a whole number, 0 or more"),
    ],
)  # fmt: skip
def test_what_cannot_be_done_is_told(rendered: Path, sarvel: Run, arguments: list[str], words: str) -> None:
    (rendered / "other.json").write_text('{"findings": []}')
    done = sarvel("report", *arguments)
    assert done.returncode == 2 and words in done.stderr and "Traceback" not in done.stderr


def test_what_needs_a_person_is_told_and_what_was_confirmed(rendered: Path, sarvel: Run) -> None:
    page = {"page": "index.html", "device": "360x740@3", "well": False, "fetched": ["a", "b"], "strayed": ["b"], "changes": [1], "broken": [], "errors": []}  # fmt: skip
    (rendered / "confirmed.json").write_text(json.dumps({"pages": [page]}))
    (rendered / "masters" / "seal.png").write_bytes(b"none")
    done = sarvel("report", "--confirmed", "confirmed.json", "--compare", "0", "--strict")
    text = (rendered / "report.html").read_text()
    assert done.returncode == 1 and "1 fault" in done.stdout
    assert "index.html on 360x740@3: 1 of 2 files as predicted; needs a look: 1 boxes elsewhere" in text
    assert "seal.png</p><p>is not an image that can be read" in text


def test_a_report_among_the_pages_is_none_of_them(rendered: Path, sarvel: Run) -> None:
    plan = rendered / "sarvel.toml"
    plan.write_text(plan.read_text().replace('pages = ["pages"]', 'pages = ["*/*.html", "*.html"]'))
    (rendered / "top.html").write_text("<p>a page</p>")
    sarvel("proof", "--html")
    sarvel("report", "--compare", "0")
    first = (rendered / "report.html").read_bytes()
    assert sarvel("report", "--compare", "0").returncode == 0
    assert (rendered / "report.html").read_bytes() == first
    pages = json.loads(sarvel("report", "--compare", "0", "--json").stdout)["report"]["pages"]
    assert [one["page"] for one in pages] == ["pages/index.html", "top.html"]
