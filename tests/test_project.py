"""Rules that the project keeps about itself."""

import re
from pathlib import Path

import pytest

import sarvel
from sarvel.cli import options
from sarvel.core.check.rule import RULES
from sarvel.plan import schema

ROOT = Path(__file__).parent.parent
DOCS = [ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))]


@pytest.mark.parametrize("command", options._COMMANDS)
def test_every_command_is_in_the_readme_and_has_a_module(command: str) -> None:
    assert f"`sarvel {command}" in (ROOT / "README.md").read_text()
    assert (Path(options.__file__).parent / f"{command}.py").is_file()


@pytest.mark.parametrize(
    "model",
    [
        schema.Site,
        schema.Partials,
        schema.Defaults,
        schema.Slot,
        schema.Look,
        schema.Check,
        schema.Master,
        schema.MasterCut,
    ],
    ids=lambda model: model.__name__,
)
def test_every_key_of_the_plan_is_documented_and_says_what_it_wants(model: type[schema.Shape]) -> None:
    text = (ROOT / "docs" / "plan.md").read_text()
    for name, field in model.model_fields.items():
        key = field.alias or name
        assert field.description, key
        assert re.search(rf"`{key}\b|\b{key}\s*=|\b{key},", text), key


@pytest.mark.parametrize("file", DOCS, ids=lambda file: file.name)
def test_links_of_the_docs_lead_somewhere(file: Path) -> None:
    text = re.sub(r"`[^`\n]*`|^    .*$", "", file.read_text(), flags=re.MULTILINE)  # code shows links of others
    for target in re.findall(r"\]\(([^)#]+)[^)]*\)", text):
        assert (file.parent / target).exists(), target


def test_every_rule_is_documented_with_its_severity() -> None:
    told = re.findall(r"^\| `([\w-]+)` \| (\w+) \|", (ROOT / "docs" / "check.md").read_text(), flags=re.MULTILINE)
    assert told == [(rule.name, rule.severity) for rule in RULES.values()]


def test_the_public_names() -> None:
    assert sarvel.__all__ == ["Device", "__version__", "pick_source"]
    with pytest.raises(AttributeError, match="module 'sarvel' has no attribute 'nothing'"):
        sarvel.nothing  # noqa: B018 - asking is the test
