"""The documentation as a site: whole, fetched from nowhere, and true where it can be tried."""

import re
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from sarvel.cli.options import parse
from tests.conftest import run_sarvel

ROOT = Path(__file__).parents[1]
DOCS = sorted((ROOT / "docs").rglob("*.md"))
MASTERS = ROOT / "src" / "sarvel" / "demo" / "site" / "masters"


def test_it_is_built_strictly_and_asks_for_nothing_outside(tmp_path: Path) -> None:
    command = [sys.executable, "-m", "mkdocs", "build", "--strict", "--quiet", "--site-dir", str(tmp_path)]
    done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
    assert done.returncode == 0 and "WARNING" not in done.stderr, done.stderr
    pages = sorted(tmp_path.rglob("*.html"))
    assert {"tutorial.html", "commands.html", "symptoms.html"} <= {page.name for page in pages}
    assert (tmp_path / "examples" / "django.html").exists() and (tmp_path / "sarvel.schema.json").exists()
    for page in pages:
        text = page.read_text()
        fetched = re.findall(r"<(?:link|script|img|source|iframe)\b[^>]*?(?:href|src)=\"(?:https?:)?//[^\"]*", text)
        assert not [one for one in fetched if 'rel="canonical"' not in one], page
    sheets = "".join(sheet.read_text() for sheet in tmp_path.rglob("*.css"))
    assert not re.findall(r"(?:url\(|@import)\s*[\"']?(?:https?:)?//", sheets)


def calls() -> list[tuple[str, str]]:
    """Lines of the docs that a terminal would run, as far as they say everything."""
    found = []
    for file in [*DOCS, ROOT / "README.md", *(ROOT / "examples").glob("*/README.md")]:
        for line in re.findall(r"(?m)^    (?:- run: )?(sarvel [^\n]*)$", file.read_text()):
            call = re.sub(r"\s+#.*|\s*[|>].*|\s*&&.*", "", line)
            if not re.search(r"[…\[\]<]|\b[A-Z]{3,}\b", call):
                found.append((file.name, call))
    return found


@pytest.mark.parametrize(("file", "call"), sorted(set(calls())), ids=str)
def test_calls_in_the_docs_are_understood(file: str, call: str) -> None:
    words = shlex.split(call)[1:]
    assert parse(words).command == (words[0] if words and not words[0].startswith("-") else None), file


@pytest.mark.browser
@pytest.mark.parametrize("measures", [True, False], ids=["with a browser", "without"])
def test_the_tutorial_does_what_it_says(tmp_path: Path, *, measures: bool) -> None:
    """Run from top to bottom: files are written as they are there, commands run, lines of the plan compared with the draft."""
    if measures and not shutil.which("chromedriver"):
        pytest.skip("no chromedriver on PATH; scripts/test installs it")
    site = tmp_path / "my-site"
    text = (ROOT / "docs" / "tutorial.md").read_text().partition("\n## 1. ")[2]
    steps = re.findall(r"(?m)^(\S[^\n]*)\n\n?((?:    [^\n]*\n|\n(?=    ))+)", text)
    ran = []
    for said, block in steps:
        code = re.sub(r"(?m)^    ", "", block).strip() + "\n"
        if named := re.search(r"`(pages/[\w.]+)`:$", said):
            (site / named[1]).write_text(code)
        elif code.startswith("mkdir"):
            subprocess.run(["sh", "-ec", code], cwd=tmp_path, check=True)
            shutil.copy(MASTERS / "lamp-at-dusk.jpg", site / "masters" / "sea.jpg")
            shutil.copy(MASTERS / "supply-boat.jpg", site / "masters" / "boat.jpg")
        elif code.startswith("sarvel"):
            for line in code.splitlines():
                if not measures and "confirm" in line:
                    continue
                call = line if measures else line.removesuffix(" --measure")
                done = run_sarvel(*shlex.split(call)[1:], cwd=site)
                assert done.returncode == 0, (line, done.stdout, done.stderr)
                ran.append((line, done.stdout))
        else:
            plan = (site / "sarvel.toml").read_text()
            if "crops" not in code:
                drafted = {re.sub(r"\s+#.*", "", line) for line in plan.splitlines()}
                wanted = {line for line in code.splitlines() if measures or not line.startswith("loading")}
                assert wanted <= drafted, plan
                plan = plan.replace("[defaults]\n", '[defaults]\neffort = "quick"\n')
            else:
                plan = re.sub(r"\[slots\.hero\][^\[]*(?:\[\"[^\[]*)?", "", plan) + "\n" + code
            (site / "sarvel.toml").write_text(plan)
    told = dict(ran)
    assert [line for line, _ in ran].count("sarvel build") == 2 and "no fault found" in told["sarvel build"]
    assert (not measures or "all as the plan asks" in told["sarvel confirm"]) and (site / "proof.png").exists()
    page = (site / "pages" / "index.html").read_text()
    assert page.count("<picture") == 2 and "sea-hero-desktop-" in page


def test_each_promise_has_a_test_that_there_is() -> None:
    rows = re.findall(
        r"(?m)^\| (?!Sarvel never|it never|---)([^|]+)\|.*\| `(tests/[\w/]+\.py)::(\w+)` \|$",
        (ROOT / "docs" / "never.md").read_text(),
    )
    assert len(rows) > 15
    for promise, file, name in rows:
        assert f"\ndef {name}(" in (ROOT / file).read_text(), promise
    assert (
        len(re.findall(r"(?m)^\| \w", (ROOT / "docs" / "never.md").read_text())) == len(rows) + 4
    )  # and a head for each table
