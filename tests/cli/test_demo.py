"""`sarvel demo`: the first command that anyone runs."""

import re
import shutil
from pathlib import Path

import pytest

from tests.conftest import run_sarvel


def woven_images(folder: Path) -> int:
    pages = [*folder.glob("*.html"), *folder.glob("*.md")]
    return sum(len(re.findall(r"<img\b[^>]*\bsrcset=", page.read_text())) for page in pages)


def test_the_first_command_sets_a_site_up_and_builds_it(
    site: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Tried with a smaller site than the demo, which takes a minute."""
    monkeypatch.setattr("sarvel.demo.SITE", site)
    done = run_sarvel("demo", "new", cwd=tmp_path)
    assert done.returncode == 0 and "Open new/public/index.html in a browser" in done.stdout
    assert woven_images(tmp_path / "new" / "pages") == 2
    again = run_sarvel("demo", "new", cwd=tmp_path)
    assert again.returncode == 2 and "is there already and not empty" in again.stderr


def test_every_image_is_woven_and_check_is_silent(demo: Path) -> None:
    assert woven_images(demo / "public") == 12
    done = run_sarvel("check", cwd=demo)
    assert (done.returncode, done.stdout) == (0, "no fault found in 4 pages and 2 stylesheets\n")


def test_woven_in_place_undo_is_exact(demo: Path, tmp_path: Path) -> None:
    site = Path(shutil.copytree(demo, tmp_path / "site"))
    plan = site / "sarvel.toml"
    plan.write_text(re.sub(r"(?m)^woven\b.*$", "", plan.read_text()))
    before = {page.name: page.read_bytes() for page in (site / "pages").iterdir() if page.is_file()}
    done = run_sarvel("weave", cwd=site)
    assert done.returncode == 0 and woven_images(site / "pages") == 12, done.stderr
    assert run_sarvel("weave", "--undo", cwd=site).returncode == 0
    assert {page.name: page.read_bytes() for page in (site / "pages").iterdir() if page.is_file()} == before
