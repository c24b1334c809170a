"""What sealed addresses mean, and what changes it."""

import os
from dataclasses import replace
from pathlib import Path

import pytest

from sarvel.core.address.on_request import Asked, asked_of
from sarvel.errors import MasterError, PlanError
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_entries import remember_number, typical_number
from sarvel.pipeline.made_when_asked import MadeWhenAsked
from sarvel.pipeline.roots import addresses_of
from sarvel.pipeline.site import read_site
from sarvel.plan.read import read_plan
from sarvel.server.catalogue import Catalogue
from sarvel.tools.serving.served_folders import elsewhere, maker_of, with_stand_in

KEY = {"SARVEL_KEY": "k" * 40}


@pytest.fixture
def plan_file(site: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setenv("SARVEL_KEY", KEY["SARVEL_KEY"])
    file = site / "sarvel.toml"
    file.write_text(file.read_text().replace("[site]", '[site]\ndelivery = "request"'))
    return file


def test_each_address_of_weaving_means_its_file(plan_file: Path) -> None:
    with Ledger() as ledger:
        edition = read_site(read_plan(plan_file), ledger).edition
        catalogue = Catalogue(plan_file, ledger, KEY)
        for picture, crop in edition.crops():
            for one in (one for ladder in crop.renditions.values() for one in ladder):
                asked = asked_of(picture, crop, one, by_accept=False)
                assert catalogue.opened(f"{asked.path}~{catalogue.keys.seal(asked.path)}") == asked
                found = catalogue.find(asked)
                assert found and found.files == (one,) and found.now == asked


@pytest.mark.parametrize(
    ("change", "wanted"),
    [
        ({"digest": "0" * 10}, ("desktop", 0, "webp")),
        ({"width": 1}, ("desktop", 0, "webp")),
        ({"width": 99_999}, ("desktop", -1, "webp")),
        ({"crop": "gone"}, ("phone", None, "webp")),  # the crop without a condition
        ({"ending": "gone"}, ("desktop", 0, "jpg")),  # the format that every browser shows
        ({"slot": "gone"}, None),
        ({"master": "gone.jpg"}, None),
        ({"master": "../masters/gull.jpg"}, None),
        ({"master": "/gull.jpg"}, None),
        ({"master": "a\\gull.jpg"}, None),
        ({"master": "gull.jpg\0"}, None),
    ],
)
def test_addresses_of_earlier_plans(
    plan_file: Path, change: dict[str, str], wanted: tuple[str, int | None, str] | None
) -> None:
    with Ledger() as ledger:
        edition = read_site(read_plan(plan_file), ledger).edition
        picture = edition.pictures["banner", "gull.jpg"]
        crop = next(one for one in picture.crops if one.rule.name == "desktop")
        asked = replace(asked_of(picture, crop, crop.renditions["webp"][0], by_accept=False), **change)  # type: ignore[arg-type]
        found = Catalogue(plan_file, ledger, KEY).find(asked)
        if wanted is None:
            assert found is None
            return
        assert found and found.now != asked and (found.now.crop, found.now.ending) == (wanted[0], wanted[2])
        ladder = next(one for one in found.crop.renditions.values() if one[0].name.endswith(wanted[2]))
        assert wanted[1] is None or found.files == (ladder[wanted[1]],)


def test_files_that_change_are_read_again(plan_file: Path) -> None:
    with Ledger() as ledger:
        catalogue = Catalogue(plan_file, ledger, KEY)
        asked = Asked("badge", "seal.png", "all", 80, "0" * 10, "webp")
        first = catalogue.find(asked)
        assert first and not catalogue.look_again()
        text = plan_file.read_text()
        for content, read, problem in ((text + "[no", True, "not TOML"), (text.replace("40px", "50px"), True, "")):
            plan_file.write_text(content)
            catalogue._looked = -10.0
            assert catalogue.look_again() == read and problem in catalogue.problem and not catalogue.look_again()
        second = catalogue.find(asked)
        assert second and [found.files[0].width for found in (first, second)] == [80, 100]
        (plan_file.parent / "masters" / "seal.png").write_bytes(b"no image")
        os.utime(plan_file.parent / "masters" / "seal.png", (1, 1))
        for pair, (stamp, picture, _) in list(catalogue._pictures.items()):
            catalogue._pictures[pair] = (stamp, picture, -10.0)
        with pytest.raises(MasterError, match=r"seal\.png: is not an image"):
            catalogue.find(asked)
    with pytest.raises(PlanError, match="there is no such file"):
        Catalogue(plan_file.parent / "none.toml", ledger, KEY)


def test_numbers_that_are_usual(tmp_path: Path) -> None:
    with Ledger(tmp_path / "l") as ledger:
        assert typical_number(ledger, "card avif") is None
        for number in (40, 50, 90):
            remember_number(ledger, "card avif", number)
        assert typical_number(ledger, "card avif") == 50 and typical_number(ledger, "card webp") is None
        for _ in range(99):
            remember_number(ledger, "card avif", 30)
        assert typical_number(ledger, "card avif") == 30


PATTERNS = [
    "/s/{left},{top},{right},{bottom}/{width}.{ext}?of={master}&seal={seal}",
    "https://h.example/{digest}/{width}/{master}",
]


@pytest.mark.parametrize("address", ["", *PATTERNS])
def test_files_are_made_by_whatever_address_weaving_writes(plan_file: Path, address: str) -> None:
    if address:
        text = (
            plan_file.read_text()
            .replace('delivery = "request"', f'address = "{address}"')
            .replace('address = "/pictures"', "", 1)
        )
        plan_file.write_text(text)
    plan = read_plan(plan_file)
    maker = maker_of(plan)
    assert maker is not None
    with Ledger() as ledger:
        edition, way = read_site(plan, ledger).edition, addresses_of(plan).rooted
    picture = edition.pictures["badge", "seal.png"]
    for ladder in picture.crops[0].renditions.values():
        url = way.of(picture, picture.crops[0], ladder[0])
        local = with_stand_in(url.encode(), plan).decode()
        assert local.startswith("/") and (url == local) == (elsewhere(plan) == "")
        made = maker(local)
        assert made and made.stat().st_size and made == maker(local)
    assert maker("/s/1,2,3,4/5.png?of=seal.png") is None
    (plan_file.parent / "masters" / "seal.png").unlink()
    assert MadeWhenAsked(plan).file(local) is None
    assert maker_of(read_plan(_with_files(plan_file))) is None


def _with_files(plan_file: Path) -> Path:
    other = plan_file.with_name("files.toml")
    other.write_text('[slots.a]\nsizes = "1px"\n')
    return other
