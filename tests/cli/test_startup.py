"""What a command does not load: what it has no use for, and what is slow to load."""

import subprocess
import sys
from pathlib import Path

import pytest

from sarvel.cli.overview import SAYS, overview
from tests.conftest import Run

CODE = """
import sys
from sarvel.__main__ import run
try:
    {}
except SystemExit:
    pass
print(*sys.modules, file=sys.stderr)
"""
PIXELS = ("numpy", "scipy")
BROWSER = ("selenium", "urllib3", "websocket", "http.server")
OTHERS = ("asyncio", "dask", "jinja2", "fsspec", "multiprocessing.pool", "yaml")

CASES: dict[str, tuple[str, ...]] = {
    "--help": (
        *PIXELS,
        *BROWSER,
        *OTHERS,
        "argparse",
        "typing",
        "pathlib",
        "PIL",
        "pydantic",
        "rich",
        "tinycss2",
        "sqlite3",
    ),
    "--version": (*PIXELS, *BROWSER, *OTHERS, "pathlib", "PIL", "pydantic", "rich", "tinycss2", "sqlite3"),
    "check --help": (*PIXELS, *BROWSER, *OTHERS, "pathlib", "PIL", "pydantic", "rich", "tinycss2", "sqlite3"),
    "weave": (*PIXELS, *BROWSER, *OTHERS, "rich", "html5lib"),
    "check pages/index.html": (*PIXELS, *BROWSER, *OTHERS, "rich"),
    "check": (*PIXELS, *BROWSER, *OTHERS, "rich"),
    "pick pages/index.html": (*PIXELS, *BROWSER, *OTHERS),
    "plan": (*PIXELS, *BROWSER, *OTHERS),
    "build": (*PIXELS, *BROWSER, *OTHERS),
}


@pytest.mark.parametrize("words", CASES)
def test_what_is_slow_to_load_is_not_loaded_without_need(words: str, site: Path, sarvel: Run) -> None:
    """Where there is nothing to make."""
    assert sarvel("build").returncode in (0, 1)
    loaded = loaded_by("run()", *words.split(), cwd=site)
    assert len(loaded) > 20
    assert loaded & set(CASES[words]) == set()


def loaded_by(call: str, *words: str, cwd: Path) -> set[str]:
    """The modules that a process has at its end."""
    command = [sys.executable, "-c", CODE.format(call), *words]
    done = subprocess.run(command, cwd=cwd, capture_output=True, text=True, check=True)
    return set(done.stderr.splitlines()[-1].split())


def test_completion_loads_no_pixels_and_no_plan(tmp_path: Path) -> None:
    loaded = loaded_by("import sarvel.cli.complete", cwd=tmp_path)
    assert loaded & {*PIXELS, *BROWSER, *OTHERS, "PIL", "pydantic", "rich", "tinycss2", "sqlite3"} == set()


def test_the_help_fits_a_terminal() -> None:
    lines = overview().splitlines()
    assert len(lines) <= 24 and max(map(len, lines)) <= 80
    assert all(any(f" {name} " in line for line in lines) for name in SAYS)
