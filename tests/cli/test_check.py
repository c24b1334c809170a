"""`sarvel check` through the installed program."""

import json
from pathlib import Path

import pytest

from sarvel.core.check.rule import RULES
from tests.conftest import Run

FAULTY = """\
<!doctype html>
<head><meta name="viewport" content="width=device-width"></head>
<p>\tA <img src="gull.webp" width="10" height="10">
<picture><source media="(max-width: 640px)" srcset="a.webp"><source media="(min-width: 640px)" srcset="b.webp"><img src="c.webp" alt="" width="9" height="9"></picture>
"""


@pytest.fixture
def faulty(site: Path) -> Path:
    (site / "faulty.html").write_text(FAULTY)
    for name in ("gull", "a", "b", "c"):
        (site / f"{name}.webp").write_bytes(b"no image")
    return site


@pytest.mark.usefixtures("rendered")
def test_woven_pages_have_no_finding(sarvel: Run) -> None:
    sarvel("weave")
    done = sarvel("check")
    assert (done.returncode, done.stdout) == (0, "nothing found in 1 page\n")


@pytest.mark.usefixtures("faulty")
def test_findings_are_told_with_place_markup_and_what_to_do(sarvel: Run) -> None:
    done = sarvel("check", "faulty.html")
    lines = done.stdout.splitlines()
    assert done.returncode == 1
    assert lines[0] == "faulty.html: 2 findings"
    assert lines[1] == "  broken alt-missing: this img has no alt"
    assert lines[2].strip() == RULES["alt-missing"].mend
    assert lines[3].split()[:2] == ["3:7", "<p>"]
    tag = '<img src="gull.webp" width="10" height="10">'
    assert lines[4].index("~") == lines[3].index(tag) and lines[4].count("~") == len(tag)
    assert lines[5].startswith("  hint ranges-overlap-by-a-pixel: this source")
    assert any(line.split()[:1] == ["4:69"] for line in lines)
    assert lines[-1] == "2 findings in 1 page: 1 broken, 1 hint"


def test_severity_decides_the_exit_code(faulty: Path, sarvel: Run) -> None:
    (faulty / "faulty.html").write_text(FAULTY.replace(' width="10"', ' alt="" width="10"'))
    assert sarvel("check", "faulty.html").returncode == 0
    assert sarvel("check", "faulty.html", "--severity", "hint").returncode == 1


@pytest.mark.usefixtures("faulty")
def test_json_and_sarif_say_the_same(sarvel: Run) -> None:
    found = json.loads(sarvel("check", "faulty.html", "--json").stdout)["findings"]
    assert json.loads(sarvel("check", "faulty.html", "--format", "json").stdout)["findings"] == found
    log = json.loads(sarvel("check", "faulty.html", "--format", "sarif").stdout)
    (run,) = log["runs"]
    assert log["version"] == "2.1.0" and run["tool"]["driver"]["name"] == "sarvel"
    told = [
        (
            one["ruleId"],
            one["locations"][0]["physicalLocation"]["region"]["startLine"],
            one["locations"][0]["physicalLocation"]["region"]["startColumn"],
        )
        for one in run["results"]
    ]
    assert told == [(one["rule"], one["line"], one["column"]) for one in found] and len(found) == 2
    for one in run["results"]:
        assert run["tool"]["driver"]["rules"][one["ruleIndex"]]["id"] == one["ruleId"]
        assert one["level"] in ("error", "warning", "note")


@pytest.mark.parametrize(
    ("arguments", "code", "words"),
    [
        (["--explain", "gap-between-sources"], 0, "the largest screens may get the smallest file"),
        (
            ["--explain", "gap"],
            2,
            "--explain gap: no rule is called so; rules are address-not-escaped, allows-no-rule, alt-is",
        ),
        (["none.html"], 2, "none.html: there is no such page"),
        (["."], 1, "2 findings in 2 pages: 1 broken, 1 hint"),
    ],
)
def test_calls(faulty: Path, sarvel: Run, arguments: list[str], code: int, words: str) -> None:
    (faulty / "pages" / "index.html").write_text("<p>Nothing</p>")
    done = sarvel("check", *arguments)
    assert done.returncode == code and words in done.stdout + done.stderr
