"""The documents of `--json` and their schema. That each is as it says is seen to by `run_sarvel`, in every test that asks for one."""

import re
from pathlib import Path

import jsonschema
import pytest

from sarvel.cli.options import COMMANDS, parse
from tests.conftest import Run
from tests.documents import SCHEMA, checker, keys, name_of

TEXT = (Path(__file__).parents[2] / "docs" / "json.md").read_text()
SHARED = {one.split()[0] for one in SCHEMA["$defs"]} - COMMANDS.keys()
NAMES = [one for one in SCHEMA["$defs"] if one.split()[0] in COMMANDS]


def test_the_schema_is_one_and_names_every_document() -> None:
    jsonschema.Draft202012Validator.check_schema(SCHEMA)
    assert [one["$ref"].rpartition("/")[2].replace("%20", " ") for one in SCHEMA["anyOf"]] == NAMES
    assert not SHARED & COMMANDS.keys()
    calls = {
        name_of(parse([name, *(["m.jpg", "--alt", ""] if name == "one" else ["p.html"] if name == "pick" else [])]))
        for name in COMMANDS
    }
    assert calls - {"serve", "deliver"} <= set(NAMES), "every command that can print one"


def test_every_key_of_a_document_is_told() -> None:
    told = set(re.findall(r"\w+", TEXT))
    assert {key for name in NAMES for key in keys(SCHEMA["$defs"][name])} - told == set()
    assert {key for name in SHARED for key in keys(SCHEMA["$defs"][name])} - told == set()


def test_another_key_is_noticed(sarvel: Run, site: Path) -> None:
    assert sarvel("plan", "--json").returncode == 0 and site.exists()
    document = {"sarvel": "0", "plan": "", "more": 1}
    assert "'more' was unexpected" in next(checker("one --as-plan").iter_errors(document)).message


@pytest.mark.parametrize("words", [("weave", "--dry-run"), ("render", "--dry-run"), ("build", "--check"), ("weave", "--check"), ("survey",), ("check",), ("subjects",)], ids=" ".join)  # fmt: skip
def test_documents_of_a_site_that_is_not_made(words: tuple[str, ...], sarvel: Run, site: Path) -> None:
    assert sarvel(*words, "--json").returncode in (0, 1) and site.exists()
