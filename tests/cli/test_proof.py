"""`sarvel proof`: the sheet, the table, and subjects found."""

import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.conftest import PLAN, Run

RED = (179, 38, 30)  # what the sheet draws around a crop that loses something


def reds(file: Path) -> int:
    with Image.open(file) as sheet:
        return int((np.asarray(sheet.convert("RGB")) == RED).all(axis=2).sum())


def size_of(file: Path) -> tuple[int, int]:
    with Image.open(file) as sheet:
        return sheet.size


def test_one_sheet_and_the_same_facts_as_a_table(site: Path, sarvel: Run) -> None:
    done = sarvel("proof")
    with Image.open(site / "proof.png") as sheet:
        assert sheet.size == (1280, 800)  # two masters, a panel each
    rows = [line.split() for line in done.stdout.splitlines() if "banner" in line or "badge" in line]
    assert rows[0][:5] == ["gull.jpg", "banner", "phone", "1.00", "1"] and rows[1][:3] == ["banner", "desktop", "2.00"]
    assert "in view, too small" in done.stdout and "none named" in done.stdout and done.returncode == 0


def test_a_crop_that_loses_its_subject_is_marked(site: Path, sarvel: Run) -> None:
    (site / "sarvel.toml").write_text(PLAN.replace("[slots.banner]", "[slots.banner]\nwidest = 300"))
    sarvel("proof")
    assert reds(site / "proof.png") == 0
    (site / "sarvel.toml").write_text(
        PLAN.replace("[slots.banner]", "[slots.banner]\nwidest = 300").replace(
            "[0.2, 0.2, 0.4, 0.4]", "[0.2, 0, 0.4, 1]"
        )
    )
    done = sarvel("proof")
    assert done.returncode == 0 and "25% lost" in done.stdout and reds(site / "proof.png") > 500


def test_a_sheet_for_each_and_parts_beyond_six_crops(site: Path, sarvel: Run) -> None:
    crops = "".join(
        f'[[slots.many.crops]]\nwhen = "(min-width: {900 - 100 * i}px)"\nratio = "1:1"\nzoom = {1 + i / 4}\n'
        for i in range(6)
    )
    many = f'\n[slots.many]\nsizes = "50vw"\n{crops}[[slots.many.crops]]\nratio = "native"\n'
    (site / "sarvel.toml").write_text(PLAN + many)
    (site / "pages" / "index.html").write_text('<img data-sarvel="many" src="../masters/gull.jpg">')
    done = sarvel("proof", "--each", "--output", "out/p.png")
    assert "drawn: out/p-gull.png" in done.stdout
    with Image.open(site / "out" / "p-gull.png") as sheet:
        assert sheet.size == (1280, 800)  # seven crops of one master: two panels


def test_a_found_subject_places_crops_and_is_marked_as_a_guess(site: Path, sarvel: Run) -> None:
    picture = np.full((400, 800, 3), (90, 120, 150), np.uint8)
    picture[150:250, 600:700] = (220, 60, 30)
    Image.fromarray(picture).save(site / "masters" / "gull.jpg", quality=95)
    (site / "sarvel.toml").write_text(PLAN.replace("subject = [0.2, 0.2, 0.4, 0.4]", 'subject = "find"'))
    done = sarvel("plan", "banner")
    assert "phone ?" in done.stdout and "the subject is guessed" in done.stderr
    crop = json.loads(sarvel("plan", "banner", "--json").stdout)["slots"][0]["pictures"][0]["crops"][1]
    assert crop["box"][0] == pytest.approx(400, abs=12) and 0 < crop["guessed"] <= 1


def noisy(seed: int) -> Image.Image:
    """A picture in which nothing in particular stands out."""
    return Image.fromarray(np.random.default_rng(seed).integers(90, 120, (300, 500, 3), np.uint8))


def test_what_needs_a_look_comes_first_and_many_masters_have_an_index(site: Path, sarvel: Run) -> None:
    names = [f"m{i}.png" for i in range(7)]
    for i, name in enumerate(names):
        noisy(i).save(site / "masters" / name)
    tags = "".join(f'<img data-sarvel="banner" src="../masters/{name}" alt="">' for name in ["gull.jpg", *names])
    (site / "pages" / "index.html").write_text(tags)
    named = "".join(
        f'[masters."m{i}.png"]\nsubject = [{box}]\n' for i, box in ((2, "0.4, 0.4, 0.5, 0.5"), (5, "0, 0, 1, 1"))
    )
    (site / "sarvel.toml").write_text(PLAN + named)
    document = json.loads(sarvel("proof", "--json").stdout)
    order = [(one["master"], one["loses"], one["unsure"]) for one in document["masters"]]
    assert order[0] == ("m5.png", True, False) and {one[0] for one in order[-2:]} == {"gull.jpg", "m2.png"}
    assert all(unsure and not loses for _, loses, unsure in order[1:-2])
    assert document["sheets"] == ["proof.png", "proof-1.png", "proof-2.png"]
    sizes = [size_of(site / sheet) for sheet in document["sheets"]]
    assert sizes[1:] == [(1280, 6 * 400), (1280, 2 * 400)] and sizes[0][0] == 1280
