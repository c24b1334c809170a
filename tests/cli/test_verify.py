"""`--check`: sites that are only verified, by pipelines and hooks; and the files that those are set up with."""

import json
import os
import re
import shlex
import shutil
from pathlib import Path

import pytest
import yaml

from sarvel.cli.options import parse
from sarvel.notices import Kind, Notice
from sarvel.pipeline.unfinished import Unfinished
from tests.conftest import Run

ROOT = Path(__file__).parents[2]


def state(site: Path) -> dict[Path, bytes]:
    return {file: file.read_bytes() for file in site.rglob("*") if file.is_file()}


def test_what_would_be_made_or_woven_is_a_failure_and_nothing_is_touched(site: Path, sarvel: Run) -> None:
    before = state(site)
    done = sarvel("build", "--check")
    count = re.search(r"sarvel.toml: (\d+) files would be made; run sarvel build", done.stderr)
    assert done.returncode == 1 and count and state(site) == before
    told = json.loads(sarvel("build", "--check", "--json").stdout)
    assert len(told["to_make"]) == int(count[1]) and not told["to_write"], (
        "a page whose files are missing stays as it is"
    )
    sarvel("render")
    rendered = state(site)
    done = sarvel("build", "--check")
    assert done.returncode == 1 and "pages/index.html: would be written otherwise; run sarvel build" in done.stderr
    woven = sarvel("weave", "--check")
    assert (
        woven.returncode == 1
        and "pages/index.html: is not woven as the plan says now; run sarvel build" in woven.stderr
    )
    assert state(site) == rendered
    sarvel("build")
    built = state(site)
    done = sarvel("build", "--check")
    assert done.returncode == 0 and "all is as sarvel.toml says" in done.stdout, done.stderr
    assert sarvel("weave", "--check").stdout == "1 page woven as sarvel.toml says\n"
    assert state(site) == built
    name = next((site / "public" / "pictures").iterdir())
    name.unlink()
    done = sarvel("build", "--check")
    assert done.returncode == 1 and "sarvel.toml: 1 file would be made" in done.stderr
    assert not Unfinished((), 1, (), (), (Notice(Kind.PLAN, "", ""),)) and Unfinished(("a",), 0, (), (), ())


def test_a_checkout_without_ledger_is_verified_as_well(site: Path, sarvel: Run) -> None:
    sarvel("build")
    (site / "sarvel.ledger").unlink()
    assert sarvel("build", "--check").returncode == 0


def commands(text: str) -> list[list[str]]:
    """The calls of sarvel in a text."""
    return [shlex.split(line)[1:] for line in re.findall(r"(?m)^[ -]*(?:run: |entry: )?(sarvel [^\n|>]*)", text)]


def test_hooks_and_workflows_call_what_there_is() -> None:
    hooks = yaml.safe_load((ROOT / ".pre-commit-hooks.yaml").read_text())
    assert [hook["id"] for hook in hooks] == ["sarvel-check", "sarvel-woven"]
    texts = [(ROOT / ".pre-commit-hooks.yaml").read_text(), (ROOT / "docs" / "pipelines.md").read_text()]
    found = [call for text in texts for call in commands(text)]
    assert len(found) > 6
    for call in found:
        assert parse(call).command == call[0], call


def test_workflows_are_what_their_engines_read() -> None:
    """Each is one YAML document; keys that every one of its kind has are there."""
    blocks = re.findall(r"(?m)^    # (\S+)\n((?:    (?!# ).*\n|\n)+)", (ROOT / "docs" / "pipelines.md").read_text())
    read = {
        name: yaml.safe_load(re.sub(r"(?m)^    ", "", text))
        for name, text in blocks
        if name.endswith((".yml", ".yaml"))
    }
    assert read.keys() == {".pre-commit-config.yaml", ".github/workflows/pictures.yml", ".gitlab-ci.yml"}
    assert read[".github/workflows/pictures.yml"]["jobs"]["pictures"]["steps"]
    assert read[".gitlab-ci.yml"]["pictures"]["script"]


@pytest.mark.parametrize("command", ["build", "weave"])
def test_frozen_is_no_order_for_undoing(site: Path, sarvel: Run, command: str) -> None:
    shutil.rmtree(site / "pages")
    done = sarvel(command, "--check")
    assert done.returncode == 2 and "pages" in done.stderr, "a plan that is wrong is told as ever"


def test_a_ledger_under_version_control_stays_as_it_is(rendered: Path, sarvel: Run) -> None:
    """A checkout gives masters a new time of change; who only verifies writes nothing of that down."""
    sarvel("build", "--quiet")
    ledger = (rendered / "sarvel.ledger").read_bytes()
    for master in (rendered / "masters").iterdir():
        os.utime(master, (10**9, 10**9))
    for words in (("weave", "--check"), ("build", "--check")):
        sarvel(*words)
        assert (rendered / "sarvel.ledger").read_bytes() == ledger, words
