"""The first minutes: what to do next, what was meant, and help whose examples work."""

import re
import shlex
import shutil
from pathlib import Path

import pytest

from sarvel.cli.examples import EXAMPLES
from sarvel.cli.options import parse
from sarvel.tools.next_step import without_plan
from tests.conftest import Run, run_sarvel

CALLS = [(command, call) for command, calls in EXAMPLES.items() for call, _ in calls]
SLOW = ("demo", "start", "confirm", "serve", "deliver", "thorough", "sarvel measure", "--output", "proof")
"""What takes a browser, a minute, or does not end: told apart from others by its words."""


@pytest.mark.parametrize(("command", "call"), CALLS, ids=[call for _, call in CALLS])
def test_examples_are_understood_and_work_on_the_demo(demo: Path, tmp_path: Path, command: str, call: str) -> None:
    program, *words = shlex.split(call)
    assert program == "sarvel" and parse(words).command == command
    if any(slow in call for slow in SLOW):
        return
    site = tmp_path / "site"
    shutil.copytree(demo, site)
    done = run_sarvel(*words, cwd=site)
    assert done.returncode in (0, 1) and "Traceback" not in done.stderr, done.stderr


def test_every_command_has_two_examples_and_shows_them() -> None:
    listed = run_sarvel("--help", cwd=Path.cwd()).stdout
    for command, calls in EXAMPLES.items():
        assert re.search(rf"(?m)^[\w ]{{13}}{command} ", listed) and len(calls) == 2
        helped = run_sarvel("help", command, cwd=Path.cwd())
        assert helped.returncode == 0 and all(call in helped.stdout for call, _ in calls)
        assert helped.stdout == run_sarvel(command, "--help", cwd=Path.cwd()).stdout
        headings = re.findall(r"(?m)^(\S.*):$", helped.stdout)
        assert len(headings) == len(set(headings)), headings
    assert run_sarvel("help", cwd=Path.cwd()).stdout == listed


MEANT = [
    (("biuld",), "sarvel: no command 'biuld'; did you mean build?"),
    (("zzz",), "sarvel: no command 'zzz'; sarvel --help lists them"),
    (("build", "--plann", "x"), "sarvel: no option --plann; did you mean --plan?"),
    (("check", "--sevrity=hint"), "sarvel: no option --sevrity; did you mean --severity?"),
    (("build", "--effort", "thorou"), "sarvel build: --effort: got 'thorou'; did you mean thorough?"),
    (("build", "--effort", "xxx"), "sarvel build: --effort: got 'xxx'; write quick, normal, thorough"),
    (("build", "now"), "sarvel: 'now' is one word too many; see sarvel --help"),
    (("watch",), "sarvel: no command 'watch'; did you mean build --watch?"),
    (("build", "--frozen"), "sarvel: no option --frozen; did you mean --check?"),
    (("one",), "sarvel one: the following arguments are required: MASTER, --alt; sarvel one --help tells more"),
]


@pytest.mark.parametrize(("words", "line"), MEANT, ids=[" ".join(words) for words, _ in MEANT])
def test_a_slip_is_one_line_with_what_was_meant(tmp_path: Path, words: tuple[str, ...], line: str) -> None:
    done = run_sarvel(*words, cwd=tmp_path)
    assert (done.returncode, done.stdout, done.stderr) == (2, "", f"{line}\n")


def test_alone_it_says_what_to_do_next(site: Path, sarvel: Run) -> None:
    before = {file: file.read_bytes() for file in site.rglob("*") if file.is_file()}
    lines = sarvel().stdout.splitlines()
    assert {file: file.read_bytes() for file in site.rglob("*") if file.is_file()} == before, "nothing is written"
    count = re.search(r"(\d+) files to make", sarvel("render", "--dry-run").stdout)
    assert count and lines == [
        "sarvel.toml: 2 slots, 2 masters, 1 page",
        f"{count[1]} files to make, 0 there already",
        "Next: sarvel build  (makes them, weaves the pages and checks them)",
    ]
    sarvel("render")
    assert "there, none to make; 1 written file not as the plan says now" in sarvel().stdout
    sarvel("weave")
    done = sarvel()
    assert "none to make; all pages are woven\nNext: sarvel report" in done.stdout and done.returncode == 0
    (site / "sarvel.toml").write_text("[slots.a]\nsize = 3\n")
    wrong = sarvel()
    assert wrong.returncode == 2 and "sarvel.toml:2: slots.a.size: unknown key; did you mean 'sizes'?" in wrong.stderr


def test_without_a_plan_it_goes_by_what_is_there(site: Path, tmp_path: Path) -> None:
    (tmp_path / "empty").mkdir()
    assert without_plan(tmp_path / "empty").command == "sarvel demo"
    assert without_plan(site / "masters").command == "sarvel one IMAGE --alt WORDS"
    step = without_plan(site)
    assert step.command == "sarvel start" and "; 2 images and 1 page in it" in step.found[0]
