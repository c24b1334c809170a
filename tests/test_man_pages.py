"""Manual pages, as the build makes them."""

import importlib.util
import shutil
import subprocess
from pathlib import Path

import pytest

from sarvel.cli.examples import EXAMPLES
from tests.conftest import run_sarvel

FILE = Path(__file__).parents[1] / "hatch_build.py"


def made() -> dict[str, str]:
    spec = importlib.util.spec_from_file_location("hatch_build", FILE)
    assert spec and spec.loader
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return dict(module.pages())


def test_each_command_has_a_page_with_its_options_and_examples() -> None:
    pages = made()
    assert pages.keys() == {"sarvel.1", *(f"sarvel-{name}.1" for name in EXAMPLES)}
    assert pages == made(), "the same bytes each time"
    for name, examples in EXAMPLES.items():
        page = pages[f"sarvel-{name}.1"].replace("\\-", "-")
        helped = run_sarvel("help", name, cwd=Path.cwd()).stdout.partition("examples:")[0]
        options = {word.strip(",[]") for word in helped.split() if word.startswith("--")} - {"--help"}
        assert options and all(option in page for option in options), name
        assert all(call in page for call, _ in examples) and f"\n.B {name}\n" in pages["sarvel.1"]


def test_roff_has_nothing_to_say_of_them(tmp_path: Path) -> None:
    if not shutil.which("groff"):
        pytest.skip("groff is not installed")
    for name, page in made().items():
        (tmp_path / name).write_text(page)
        done = subprocess.run(
            ["groff", "-man", "-ww", "-Tutf8", name], cwd=tmp_path, capture_output=True, text=True, check=True
        )
        assert not done.stderr and "Sarvel" in done.stdout, done.stderr
