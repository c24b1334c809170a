"""Words: what a user reads has today's vocabulary, and is written in plain English."""

import ast
import io
import re
import subprocess
import tokenize
from collections.abc import Iterator
from pathlib import Path

import pytest

from sarvel.cli.options import COMMANDS, parser_for
from sarvel.cli.overview import SAYS
from sarvel.plan import messages
from sarvel.plan.json_schema import schema_text
from tests.conftest import Run

ROOT = Path(__file__).parents[1]
DOCS = [ROOT / "README.md", ROOT / "CHANGELOG.md", *sorted((ROOT / "docs").rglob("*.md"))]
INNER = {ROOT / "docs" / "inside.md"}  # for developers, who meet ladders and renditions in the code

OLD = r"(?i)\b(cuts?(?! off\b)|rungs?|ladders?|tray|renditions?|bands?(?= (begins?|of the layout))|finish(?= ?=)|foretold)\b"
"""Words that the plan, options and messages had before a release."""

ROUNDABOUT = [
    r"(?:is|are|be|was|were) told of", r"\btells? of\b", r"\bnobody\b", r"\bsomebody\b", r"\beverybody\b", r"\bwhoever\b",
    r"\bwhatever\b", r"\banew\b", r"\bafresh\b(?!`)", r"\bmeanwhile\b", r"\bheld against\b", r"\bstands? beside\b",
    r"\bhangs? on\b", r"\bis let be\b", r"\bare let be\b", r"\btaken for\b", r"\bgiven back\b", r"\bas of any?\b",
    r"\bfault of ours\b", r"\bin silence\b", r"\bforetells?\b",
]  # fmt: skip
"""Phrases that have a plain word: nobody is the visitor or no device, anew is again, hangs on is depends on."""


def prose(file: Path) -> Iterator[tuple[int, str]]:
    """Lines of a text outside of code blocks; of a program its strings and comments."""
    if file.suffix == ".py":
        for token in tokenize.generate_tokens(io.StringIO(file.read_text(encoding="utf-8")).readline):
            if token.type in (tokenize.STRING, tokenize.COMMENT):
                yield from enumerate(token.string.splitlines(), token.start[0])
    else:
        lines = enumerate(file.read_text(encoding="utf-8").splitlines(), 1)
        yield from ((number, line) for number, line in lines if not line.startswith("    "))


def test_plain_words() -> None:
    pattern = re.compile("|".join(ROUNDABOUT), re.IGNORECASE)
    names = subprocess.run(["git", "ls-files", "src", "docs", "README.md", "CHANGELOG.md", "examples/*.md"], cwd=ROOT, capture_output=True, text=True, check=False)  # fmt: skip
    files = [ROOT / name for name in names.stdout.split()] or [*DOCS, *(ROOT / "src").rglob("*.py")]
    found = [
        f"{file.relative_to(ROOT)}:{number}: {line.strip()}"
        for file in files
        if file.suffix in (".py", ".md") and file.is_file()
        for number, line in prose(file)
        if pattern.search(line)
    ]
    assert len(found) <= 4, "\n".join(found)  # without a signature nobody can write an address; in an example's post


@pytest.mark.parametrize("file", [file for file in DOCS if file not in INNER], ids=lambda file: file.name)
def test_docs_have_todays_vocabulary(file: Path) -> None:
    assert not [
        line for _, line in prose(file) if re.search(OLD, line.replace("`renditions`", ""))
    ]  # a name of the API


def test_help_has_todays_vocabulary() -> None:
    assert SAYS.keys() == COMMANDS.keys()
    for name in COMMANDS:
        text = parser_for([name, "--help-all"]).commands[name].format_help()
        assert not re.search(OLD, text), name


def test_the_plans_schema_has_todays_vocabulary() -> None:
    assert not re.search(OLD, schema_text())
    assert not {old for old in messages._RENAMED if re.search(rf'"{old}": \{{', schema_text())} - {"background"}


@pytest.mark.usefixtures("rendered")
@pytest.mark.parametrize("words", [("plan",), ("plan", "--quality"), ("proof",), ("build",), ("pick", "pages/index.html"), ("survey",), ("weave", "--dry-run"), ("check",)], ids=" ".join)  # fmt: skip
def test_output_has_todays_vocabulary(sarvel: Run, words: tuple[str, ...]) -> None:
    done = sarvel(*words)
    assert not re.search(OLD, done.stdout + done.stderr)


def test_messages_have_todays_vocabulary() -> None:
    """Strings of the program that hold a space: texts, no names."""
    for file in (ROOT / "src" / "sarvel").rglob("*.py"):
        tree = ast.parse(file.read_text(encoding="utf-8"))
        quiet = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
        texts = (n.value for n in ast.walk(tree) if isinstance(n, ast.Constant) and isinstance(n.value, str) and id(n) not in quiet)  # fmt: skip
        assert not [text for text in texts if " " in text.strip() and re.search(OLD, text)], file


def test_pages_that_are_written_have_todays_vocabulary() -> None:
    """The report and the page of subjects: text between tags, without code of the template."""
    for file in (ROOT / "src" / "sarvel" / "tools").rglob("*.html"):
        texts = re.findall(r">([^<>{}]+)<", file.read_text(encoding="utf-8"))
        assert not [text for text in texts if re.search(OLD, text)], file
