"""`sarvel proof`: the sheet, the table, and subjects found."""

import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.conftest import PLAN, Run

RED = (179, 38, 30)  # what the sheet draws around a cut that loses something


def reds(file: Path) -> int:
    with Image.open(file) as sheet:
        return int((np.asarray(sheet.convert("RGB")) == RED).all(axis=2).sum())


def test_one_sheet_and_the_same_facts_as_a_table(site: Path, sarvel: Run) -> None:
    done = sarvel("proof")
    with Image.open(site / "proof.png") as sheet:
        assert sheet.size == (1280, 800)  # two masters, a panel each
    rows = [line.split() for line in done.stdout.splitlines() if "banner" in line or "badge" in line]
    assert rows[0][:5] == ["gull.jpg", "banner", "hand", "1.00", "1"] and rows[1][:3] == ["banner", "desk", "2.00"]
    assert "in view, too small" in done.stdout and "none named" in done.stdout and done.returncode == 0


def test_a_cut_that_loses_its_subject_is_marked(site: Path, sarvel: Run) -> None:
    (site / "sarvel.toml").write_text(PLAN.replace("[slots.banner]", "[slots.banner]\nwidest = 300"))
    sarvel("proof")
    assert reds(site / "proof.png") == 0
    (site / "sarvel.toml").write_text(
        PLAN.replace("[slots.banner]", "[slots.banner]\nwidest = 300").replace(
            "[0.2, 0.2, 0.4, 0.4]", "[0.2, 0, 0.4, 1]"
        )
    )
    done = sarvel("proof")
    assert done.returncode == 1 and "25% lost" in done.stdout and reds(site / "proof.png") > 500


def test_a_sheet_for_each_and_parts_beyond_six_cuts(site: Path, sarvel: Run) -> None:
    cuts = "".join(
        f'[[slots.many.cuts]]\nwhen = "(min-width: {900 - 100 * i}px)"\nratio = "1:1"\nzoom = {1 + i / 4}\n'
        for i in range(6)
    )
    many = f'\n[slots.many]\nshown = "50vw"\n{cuts}[[slots.many.cuts]]\nratio = "native"\n'
    (site / "sarvel.toml").write_text(PLAN + many)
    (site / "pages" / "index.html").write_text('<img data-sarvel="many" src="../masters/gull.jpg">')
    done = sarvel("proof", "--each", "--output", "out/p.png")
    assert "drawn: out/p-gull.png" in done.stdout
    with Image.open(site / "out" / "p-gull.png") as sheet:
        assert sheet.size == (1280, 800)  # seven cuts of one master: two panels


def test_suggested_and_saved_subjects(site: Path, sarvel: Run) -> None:
    picture = np.full((400, 600, 3), (90, 120, 150), np.uint8)
    picture[100:220, 360:480] = (220, 60, 30)
    Image.fromarray(picture).save(site / "masters" / "gull.jpg", quality=95)
    plan = PLAN.replace("subject = [0.2, 0.2, 0.4, 0.4]\n", "# no subject yet\n")
    (site / "sarvel.toml").write_text(plan)
    done = sarvel("proof", "--suggest")
    assert '[masters."gull.jpg"]\nsubject = [0.5' in done.stdout and "sure" in done.stdout
    assert (site / "sarvel.toml").read_text() == plan and not (site / "proof.png").exists()
    document = json.loads(sarvel("proof", "--save", "--json").stdout)
    assert document["subjects"]["gull.jpg"]["subject"] == pytest.approx([0.6, 0.25, 0.8, 0.55], abs=0.04)
    saved = (site / "sarvel.toml").read_text()
    assert "# no subject yet" in saved and saved.count("subject = [") == 2
    assert json.loads(sarvel("proof", "--save", "--json").stdout)["subjects"] == {}


def test_a_found_subject_places_cuts_and_is_marked_as_a_guess(site: Path, sarvel: Run) -> None:
    picture = np.full((400, 800, 3), (90, 120, 150), np.uint8)
    picture[150:250, 600:700] = (220, 60, 30)
    Image.fromarray(picture).save(site / "masters" / "gull.jpg", quality=95)
    (site / "sarvel.toml").write_text(PLAN.replace("subject = [0.2, 0.2, 0.4, 0.4]", 'subject = "find"'))
    done = sarvel("plan", "banner")
    assert "hand ?" in done.stdout and "the subject is guessed" in done.stderr
    cut = json.loads(sarvel("plan", "banner", "--json").stdout)["slots"][0]["pictures"][0]["cuts"][1]
    assert cut["box"][0] == pytest.approx(400, abs=12) and 0 < cut["guessed"] <= 1
