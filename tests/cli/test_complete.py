"""Completion, asked for as shells do: by argcomplete's variables."""

from pathlib import Path

import pytest

from tests.conftest import start_sarvel

CASES = [
    ("sarvel ", {"build", "check", "weave", "--version"}, {"--plan"}),
    ("sarvel bu", {"build"}, {"check"}),
    ("sarvel build --", {"--plan", "--only", "--check", "--effort"}, {"--explain"}),
    ("sarvel build --effort ", {"quick", "normal", "thorough"}, set()),
    ("sarvel build --only ", {"banner", "badge", "gull.jpg"}, set()),
    ("sarvel plan ba", {"banner", "badge"}, {"build"}),
    ("sarvel pick pages/index.html --image b", {"banner", "badge"}, set()),
    ("sarvel check --explain no-", {"no-modern-format"}, {"missing-alt"}),
    ("sarvel --nonsense ", set(), {"nonsense"}),
]


@pytest.mark.parametrize(("line", "among", "none"), CASES, ids=[line for line, _, _ in CASES])
def test_words_that_could_come_next(site: Path, tmp_path: Path, line: str, among: set[str], none: set[str]) -> None:
    told = tmp_path / "told"
    asked = {
        "_ARGCOMPLETE": "1",
        "_ARGCOMPLETE_STDOUT_FILENAME": str(told),
        "_ARGCOMPLETE_IFS": "\n",
        "_ARGCOMPLETE_SUPPRESS_SPACE": "1",
        "COMP_LINE": line,
        "COMP_POINT": str(len(line)),
        "COMP_TYPE": "9",
        "PATH": "/usr/bin",
    }
    done = start_sarvel(cwd=site, environment=asked)
    words = set(told.read_text().split()) if told.exists() else set()
    assert among <= words and not none & words, (words, done.stderr)


def test_without_a_plan_there_is_nothing_to_complete_and_no_trouble(tmp_path: Path) -> None:
    asked = {
        "_ARGCOMPLETE": "1",
        "_ARGCOMPLETE_STDOUT_FILENAME": str(tmp_path / "told"),
        "COMP_LINE": "sarvel plan ",
        "COMP_POINT": "12",
    }
    done = start_sarvel(cwd=tmp_path, environment=asked)
    assert done.stderr == ""
