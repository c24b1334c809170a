"""The worked examples, built and proved by the commands that their READMEs give, with the real engines."""

import os
import re
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from PIL import Image

ROOT = Path(__file__).parents[2]
EXAMPLES = ROOT / "examples"
ENGINES = ROOT / "tests" / "engines" / "node_modules"
NAMES = sorted(folder.name for folder in EXAMPLES.iterdir() if folder.is_dir())
PROGRAMS = Path(sys.executable).parent


def commands(readme: str, heading: str) -> list[str]:
    """The lines of code below a heading that a shell runs."""
    section = readme.partition(f"\n## {heading}\n")[2].partition("\n## ")[0]
    assert section, heading
    return [line for line in re.findall(r"(?m)^    (\S.*)$", section) if not line.startswith(('"', "<", "{"))]


def run(lines: list[str], site: Path) -> str:
    """What lines of a README print, run one after another in a shell."""
    environment = {**os.environ, "PATH": f"{PROGRAMS}{os.pathsep}{os.environ['PATH']}", "COLUMNS": "120"}
    done = subprocess.run(
        ["sh", "-ec", "\n".join(lines)],
        cwd=site,
        env=environment,
        capture_output=True,
        text=True,
        timeout=300,
        check=False,
    )
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


@pytest.mark.browser
@pytest.mark.parametrize("name", NAMES)
def test_an_example_is_built_by_one_command_and_nothing_moves(name: str, tmp_path: Path) -> None:
    if not shutil.which("chromedriver") and not os.environ.get("CI"):
        pytest.skip("no chromedriver on PATH; scripts/test installs it")
    site = Path(shutil.copytree(EXAMPLES / name, tmp_path / name))
    if (site / "package.json").exists():
        if not (ENGINES / "vite").exists() and not os.environ.get("CI"):
            pytest.skip("the bundler is not installed; scripts/test does it")
        (site / "node_modules").symlink_to(ENGINES)
    for file in (site / "masters").iterdir():  # as large as they are they would take most of the time
        with Image.open(file) as master:
            master.reduce(2).save(file, quality=90)
    plan = (site / "sarvel.toml").read_text()
    quick = plan if "[defaults]" in plan else plan.replace("[breakpoints]", "[defaults]\n\n[breakpoints]", 1)
    (site / "sarvel.toml").write_text(quick.replace("[defaults]\n", '[defaults]\neffort = "quick"\n'))
    before = {file: file.read_bytes() for file in (site / "masters").iterdir()}
    readme = (site / "README.md").read_text()
    build = commands(readme, "The one command")
    assert len(build) == 1
    assert "no fault found" in run(build, site)
    told = run(commands(readme, "Did anything move?"), site)
    assert re.search(r"on 6 of \d+ devices, before and after: all as the plan asks", told), told
    assert " elsewhere" not in told and re.search(r"\b([1-9]) of \1\b", told), told
    assert {file: file.read_bytes() for file in (site / "masters").iterdir()} == before
    if name == "strict-csp":
        page = (site / "public" / "index.html").read_text()
        assert "default-src 'none'" in page and "unsafe" not in page and not re.search(r"\sstyle=|<style|data:", page)
    assert "0 files written" in run(["sarvel weave"], site), "all was woven by the one command"


def test_the_examples_hold_no_copies_of_masters() -> None:
    for name in NAMES:
        link = EXAMPLES / name / "masters"
        assert link.is_symlink() and link.resolve() == ROOT / "src" / "sarvel" / "demo" / "site" / "masters"
        assert f"({name}/README.md)" in (EXAMPLES / "README.md").read_text()
    pictures = [file for file in EXAMPLES.rglob("*") if file.suffix in (".jpg", ".png", ".avif", ".webp")]
    assert not [file for file in pictures if "masters" not in file.parts and "node_modules" not in file.parts]
