"""Portions of what a plan asks for, and the folders that it is in."""

import contextlib
import json
import shutil
from pathlib import Path
from types import SimpleNamespace
from typing import Any

import pytest
from PIL import Image

from sarvel.core.model import CropOverride, Master
from sarvel.errors import ClusterError, PlanError
from sarvel.pipeline.cluster_when_needed import ClusterWhenNeeded
from sarvel.pipeline.listener import Nobody
from sarvel.pipeline.plan_folders import masters_of_plan, output_of_plan
from sarvel.pipeline.portions import portions
from sarvel.plan.read import read_plan
from sarvel.plan.storage_urls import masters_place, output_place
from tests.conftest import PLAN, run_sarvel

SLOTS: Any = {"first": SimpleNamespace(loading="eager"), "later": SimpleNamespace(loading="lazy")}
WANTED = [("later", "a"), ("later", "b"), ("first", "c"), ("later", "c"), ("later", "d")]


def test_what_is_seen_at_once_comes_first_and_masters_stay_whole() -> None:
    parts = [*portions(WANTED, SLOTS, {}, lambda: 2)]
    assert parts == [[("first", "c"), ("later", "c"), ("later", "a")], [("later", "b"), ("later", "d")]]
    assert [*portions(WANTED, SLOTS, {}, lambda: 99)] == [[pair for part in parts for pair in part]]
    assert [*portions([], SLOTS, {}, lambda: 2)] == [[]], "what is wrong with pages is told all the same"


def test_masters_that_share_a_crop_are_not_parted() -> None:
    masters = {"a": Master(crops={("later", "wide"): CropOverride(master="d")})}
    assert [*portions(WANTED, SLOTS, masters, lambda: 1)] == [
        [("first", "c"), ("later", "c")], [("later", "a"), ("later", "d")], [("later", "b")]
    ]  # fmt: skip


def test_a_cluster_is_reached_when_it_is_needed() -> None:
    with contextlib.ExitStack() as stack:
        assert ClusterWhenNeeded(None, Nobody(), stack)() is None
        there = ClusterWhenNeeded("tcp://127.0.0.1:1", Nobody(), stack)
        assert there.portion() >= 1000
        with pytest.raises(ClusterError, match="no scheduler of dask answers there"):
            there()


PLACES = [
    ("photos", "photos", None),
    ("s3://shop/site/photos/", "photos", "s3://shop/site/photos"),
    ("s3://photos", "photos", "s3://photos"),
    ("gs://shop/my%20photos", "my photos", "gs://shop/my%20photos"),
    ("file:///srv/my%20photos", "/srv/my photos", None),
]


@pytest.mark.parametrize(("said", "folder", "url"), PLACES)
def test_places_are_folders_or_urls(said: str, folder: str, url: str | None) -> None:
    assert masters_place(said, Path("site")) == (Path("site", folder), url)
    there = output_place(said, Path("site"))
    assert there == ((Path("site", "sarvel.cache", "output"), url) if url else (Path("site", folder), None))


def test_folders_of_a_plan_on_this_machine(site: Path) -> None:
    plan = read_plan(site / "sarvel.toml")
    masters = masters_of_plan(plan)
    assert masters.images("*") == ["gull.jpg", "seal.png"] == masters.images(".") and masters.images("*.jpg") == [
        "gull.jpg"
    ]
    stamp = masters.stamp("gull.jpg")
    assert stamp and stamp.size == (site / "masters" / "gull.jpg").stat().st_size and masters.stamp("none") is None
    assert output_of_plan(plan).folder == plan.output


WRONG = [
    ('output = "s3://shop/pictures"', "address", "site.output: pages reach files in object storage at an address of their own"),
    ('output = "s3://me:secret@shop/pictures"', "", "site.output: the plan holds a password; take it out"),
    ('masters = "s3a://shop/masters"', "", "site.masters: no kind of storage 's3a://'; did you mean 's3'?"),
    ('masters = "s3://"', "", "site.masters: 's3://' names no place; write one such as s3://bucket/masters"),
    ('masters_kept = "much"', "", "site.masters_kept: got \"much\"; write"),
]  # fmt: skip


@pytest.mark.parametrize(("said", "without", "line"), WRONG, ids=range(len(WRONG)))
def test_a_place_that_cannot_be_is_told_in_a_line(site: Path, said: str, without: str, line: str) -> None:
    file = site / "sarvel.toml"
    text = file.read_text().replace("[site]", f"[site]\n{said}")
    file.write_text(text.replace('address = "/pictures"', "") if without else text)
    with pytest.raises(PlanError) as told:
        read_plan(file)
    assert line in str(told.value) and len(str(told.value).splitlines()) == 1


@pytest.mark.parametrize("command", ["build", "weave"])
def test_what_is_worked_out_in_portions_is_what_one_portion_comes_to(
    site: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, command: str
) -> None:
    """Pages, side files and the document: of two masters a portion as of all at once; what is missing is told alike."""
    for number in range(5):
        Image.new("RGB", (60, 60), (40 * number, 90, 90)).save(site / "masters" / f"m{number}.png")
        names = (f"m{number}.png", "seal.png", "gull.jpg" if number % 2 else "gone.png")
        tags = "\n".join(f'<img data-sarvel="badge" src="../masters/{name}" alt="A">' for name in names)
        (site / "pages" / f"p{number}.html").write_text(f"<!doctype html>\n{tags}")
    more = '[site]\nwoven = "public"\nmanifest = "all.json"\nplaceholders = "stylesheet"'
    partials = '[partials]\nfolder = "parts"\nmacro = "m.njk"\n'
    plan = PLAN.replace("[site]", more).replace('sizes = "40px"', 'sizes = "40px"\nplaceholder = "tint"') + partials
    (site / "sarvel.toml").write_text(plan)
    assert run_sarvel("render", cwd=site).returncode == 1
    whole, parted = (Path(shutil.copytree(site, tmp_path / name)) for name in ("whole", "parted"))
    done = run_sarvel(command, "--json", cwd=whole)
    monkeypatch.setattr("sarvel.pipeline.portions.PORTION", 2)
    monkeypatch.setattr("sarvel.pipeline.cluster_when_needed.PORTION", 2)
    again = run_sarvel(command, "--json", cwd=parted)
    assert again.returncode == done.returncode == 1 and again.stderr == done.stderr
    first, second = (json.loads(one.stdout) for one in (done, again))
    for document in (first, second):
        for key in ("faults", "warnings", "notes"):
            document[key] = sorted(map(str, document.get(key, [])))
    assert second == first
    left, right = (
        {
            file.relative_to(top): file.read_bytes()
            for file in top.rglob("*")
            if file.is_file() and "ledger" not in file.name
        }
        for top in (whole, parted)
    )
    assert right == left and len(left) > 30
