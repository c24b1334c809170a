"""The JSON Schema of the plan: what the program takes it takes, and what is wrong by its shape it declines."""

import json
import re
import tomllib
from pathlib import Path

import jsonschema
import pytest

from sarvel.plan.json_schema import schema_text
from tests.conftest import PLAN

ROOT = Path(__file__).parents[2]
SCHEMA = json.loads(schema_text())
CHECKER = jsonschema.Draft202012Validator(SCHEMA)
DEMO = ROOT / "src" / "sarvel" / "demo" / "site" / "sarvel.toml"


def blocks() -> list[str]:
    """The plans and pieces of plans that the docs show."""
    texts = (file.read_text() for file in sorted((ROOT / "docs").rglob("*.md")))
    found = [block for text in texts for block in re.findall(r"(?m)^(?:    .*\n|\n)+", text)]
    return [text for block in found if (text := re.sub(r"(?m)^    ", "", block)).lstrip().startswith("[")]


def plain(said: object) -> object:
    """TOML's days as JSON has them."""
    return json.loads(json.dumps(said, default=str))


@pytest.mark.parametrize("text", [PLAN, DEMO.read_text(encoding="utf-8")], ids=["tests", "demo"])
def test_plans_that_work_are_taken(text: str) -> None:
    CHECKER.check_schema(SCHEMA)
    CHECKER.validate(plain(tomllib.loads(text)))


def test_pieces_of_plans_in_the_docs_are_taken() -> None:
    taken = 0
    for text in blocks():
        try:
            said = tomllib.loads(text)
        except tomllib.TOMLDecodeError:
            continue  # no plan, or one with an ellipsis
        faults = [one for one in CHECKER.iter_errors(plain(said)) if one.validator not in ("required", "anyOf")]
        assert not faults, (text, faults[0].message)
        taken += 1
    assert taken >= 5


@pytest.mark.parametrize(
    ("said", "now"),
    [
        ("[site]", "[site]\nmaster = 'photos'"),
        ("[site]", "[sight]"),
        ("widths = 2", "widths = 0"),
        ("widths = 2", "widths = '2'"),
        ('loading = "eager"', 'loading = "soon"'),
        ('formats = ["webp", "jpeg"]', 'formats = ["webp", "gif"]'),
        ('sizes = "40px"', "width = 3"),
        ("quality = { webp = 20", "quality = { webp = 200"),
    ],
)
def test_what_is_wrong_by_its_shape_is_declined(said: str, now: str) -> None:
    assert said in PLAN
    assert not CHECKER.is_valid(plain(tomllib.loads(PLAN.replace(said, now))))


def test_every_key_says_what_it_wants_and_none_is_null() -> None:
    for name, shape in {"PlanFile": SCHEMA, **SCHEMA["$defs"]}.items():
        for key, one in shape["properties"].items():
            assert one.get("description"), (name, key)
    assert '"null"' not in schema_text() and ": null" not in schema_text()
