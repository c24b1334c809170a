"""Leaving: pages as their authors wrote them, nothing of Sarvel's left, and nothing of anyone else's gone."""

import json
import shutil
from pathlib import Path

import pytest

from sarvel.files.ledger import Ledger
from sarvel.files.ledger_rows import FILE_NAME
from sarvel.pipeline.remove import removal_of
from sarvel.plan.read import read_plan
from tests.conftest import Run


def files_of(folder: Path) -> dict[str, bytes]:
    return {str(one.relative_to(folder)): one.read_bytes() for one in sorted(folder.rglob("*")) if one.is_file()}


@pytest.mark.parametrize("place", ["in place", "in a folder"])
def test_what_sarvel_wrote_goes_and_all_else_stays(place: str, site: Path, sarvel: Run) -> None:
    plan = site / "sarvel.toml"
    more = 'woven = "public"\n' if place == "in a folder" else ""
    plan.write_text(plan.read_text().replace("[site]", f'[site]\nmanifest = "pictures.json"\n{more}'))
    (site / "pages" / "own.css").write_text("p {}")
    before = files_of(site)
    assert sarvel("build").returncode == 0
    built = files_of(site)
    done = sarvel("remove")
    assert done.returncode == 2 and "add --yes" in done.stderr and files_of(site) == built
    done = sarvel("remove", "--dry-run")
    assert done.returncode == 0 and files_of(site) == built
    assert "remove  pictures.json" in done.stdout and "remove  sarvel.ledger" in done.stdout
    with Ledger(site / FILE_NAME) as ledger:
        found = removal_of(read_plan(plan), ledger)
    assert f"remove  {found.files[0].relative_to(site)}" in done.stdout and len(found.files) == done.stdout.count(
        "remove  "
    )
    done = sarvel("remove", "--yes", "--json")
    document = json.loads(done.stdout)
    assert done.returncode == 0 and not document["left"], done.stderr
    assert {key for key in built if key not in before} == set(document["removed"])
    assert files_of(site) == before
    assert sarvel("remove", "--yes", "--with-plan").returncode == 0 and not plan.exists()


def test_what_somebody_changed_or_names_stays(rendered: Path, sarvel: Run) -> None:
    assert sarvel("build", "--quiet").returncode == 0
    pictures = sorted(one for one in (rendered / "public" / "pictures").iterdir() if one.suffix in (".webp", ".jpg"))
    changed, named = pictures[0], pictures[1]
    changed.write_bytes(changed.read_bytes() + b"x")
    (rendered / "pages" / "index.html").write_text(
        (rendered / "pages" / "index.html").read_text() + f'<a href="/pictures/{named.name}">full size</a>'
    )
    masters = files_of(rendered / "masters")
    done = sarvel("remove", "--yes")
    assert done.returncode == 0 and changed.name in done.stderr and named.name in done.stderr
    assert [one for one in pictures if one.exists()] == [changed, named]
    assert files_of(rendered / "masters") == masters


def test_masters_that_are_gone_keep_nobody_from_leaving(rendered: Path, sarvel: Run) -> None:
    assert sarvel("build", "--quiet").returncode == 0
    shutil.rmtree(rendered / "masters")
    done = sarvel("remove", "--yes")
    assert done.returncode == 0 and "data-woven" not in (rendered / "pages" / "index.html").read_text(), done.stderr
    assert not (rendered / "public" / "pictures").exists()
