"""`sarvel subjects`: the table, what is saved, the file of subjects, metadata, and the page."""

import json
import tomllib
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from sarvel.core.crop.place import Box
from tests.conftest import PLAN, Run
from tests.encode.test_named_subject import around, mwg


@pytest.fixture
def unsure(site: Path) -> Path:
    """The site with one master of a clear subject, and one of two that are alike; the plan names neither."""
    clear, two = (np.full((400, 800, 3), (90, 120, 150), np.uint8) for _ in range(2))
    clear[120:260, 560:700] = two[150:260, 80:190] = two[150:260, 600:710] = (220, 60, 30)
    Image.fromarray(clear).save(site / "masters" / "gull.jpg", quality=95)
    Image.fromarray(two).save(site / "masters" / "two.png")
    (site / "pages" / "index.html").write_text(
        '<img data-sarvel="banner" src="../masters/gull.jpg"><img data-sarvel="banner" src="../masters/two.png">'
    )
    (site / "sarvel.toml").write_text(PLAN.replace("subject = [0.2, 0.2, 0.4, 0.4]\n", ""))
    return site


@pytest.mark.usefixtures("unsure")
def test_the_table_names_who_says_so_and_what_crops_lose(unsure: Path, sarvel: Run) -> None:
    (unsure / "sarvel.toml").write_text(PLAN.replace("subject = [0.2, 0.2, 0.4, 0.4]", "subject = [0, 0, 1, 1]"))
    done = sarvel("subjects")
    rows = {line.split()[0]: line.split()[1:] for line in done.stdout.splitlines() if ".jpg" in line or ".png" in line}
    assert rows["gull.jpg"] == ["plan", "banner·phone", "50%"] and rows["two.png"][0] == "none"
    assert "2 masters: 1 named by the plan, 1 without one" in done.stdout
    assert "two.png: nothing is sure enough of the subject" in done.stderr


def test_suggested_and_saved_subjects(site: Path, sarvel: Run) -> None:
    picture = np.full((400, 600, 3), (90, 120, 150), np.uint8)
    picture[100:220, 360:480] = (220, 60, 30)
    Image.fromarray(picture).save(site / "masters" / "gull.jpg", quality=95)
    plan = PLAN.replace("subject = [0.2, 0.2, 0.4, 0.4]\n", "# no subject yet\n")
    (site / "sarvel.toml").write_text(plan)
    done = sarvel("subjects")
    assert "1 guessed" in done.stdout and "`sarvel subjects --save` writes it into the plan" in done.stderr
    assert (site / "sarvel.toml").read_text() == plan and not (site / "proof.png").exists()
    document = json.loads(sarvel("subjects", "--save", "--json").stdout)
    assert document["subjects"]["gull.jpg"]["guesses"][0] == pytest.approx([0.6, 0.25, 0.8, 0.55], abs=0.04)
    saved = (site / "sarvel.toml").read_text()
    assert document["saved"] == ["gull.jpg"] and "# no subject yet" in saved and saved.count("subject = [") == 1
    assert "0 subjects saved" in sarvel("subjects", "--save").stdout and (site / "sarvel.toml").read_text() == saved


def test_only_what_is_sure_enough_is_saved_unless_told(unsure: Path, sarvel: Run) -> None:
    found = json.loads(sarvel("subjects", "--json").stdout)["subjects"]
    low, high = sorted(guess["sure"] for guess in found.values())
    between = f"{50 * (low + high):.2f}"
    done = sarvel("subjects", "--save", "--sure", between)
    assert "1 subject saved" in done.stdout and f"two.png: not {float(between):g}% sure of the subject" in done.stderr
    assert "two.png" not in (unsure / "sarvel.toml").read_text()
    assert "1 subject saved" in sarvel("subjects", "--save", "--sure", "0").stdout
    assert 'masters."two.png"' in (unsure / "sarvel.toml").read_text()
    assert "write a percentage from 0 to 100" in sarvel("subjects", "--save", "--sure", "high").stderr


def test_a_guess_or_a_box_is_chosen(unsure: Path, sarvel: Run) -> None:
    guess = json.loads(sarvel("subjects", "--json").stdout)["subjects"]["two.png"]["guesses"]
    assert "1 subject saved" in sarvel("subjects", "--choose", "two.png=2").stdout
    saved = tomllib.loads((unsure / "sarvel.toml").read_text())["masters"]["two.png"]["subject"]
    assert saved == pytest.approx(guess[1], abs=6e-4)
    (unsure / "sarvel.toml").write_text(PLAN.replace("[0.2, 0.2, 0.4, 0.4]", '"find"'))
    done = sarvel("subjects", "--choose", "gull.jpg=0.1,0.2,0.5,0.625", "--choose", "two.png=1")
    assert "2 subjects saved" in done.stdout
    masters = tomllib.loads((unsure / "sarvel.toml").read_text())["masters"]
    assert masters["gull.jpg"]["subject"] == [0.1, 0.2, 0.5, 0.625] and "subject" in masters["two.png"]


@pytest.mark.parametrize(
    ("said", "words"),
    [
        ("two.png", "say MASTER=NUMBER or MASTER=LEFT,TOP,RIGHT,BOTTOM"),
        ("none.png=1", "no page asks for a master none.png; those without a subject are gull.jpg, two.png"),
        ("two.png=9", "guesses of two.png; see `sarvel proof`, or write a box"),
        ("two.png=0.5,0.1,0.2,0.9", "a box is left, top, right and bottom in fractions"),
        ("two.png=first", "a box is left, top, right and bottom in fractions"),
    ],
)
def test_a_choice_that_means_nothing(unsure: Path, sarvel: Run, said: str, words: str) -> None:
    before = (unsure / "sarvel.toml").read_text()
    done = sarvel("subjects", "--choose", said)
    assert done.returncode == 2 and words in done.stderr and (unsure / "sarvel.toml").read_text() == before


@pytest.mark.usefixtures("site")
def test_a_subject_that_the_plan_names_is_not_chosen_anew(sarvel: Run) -> None:
    done = sarvel("subjects", "--choose", "gull.jpg=1")
    assert done.returncode == 2 and "the plan names the subject of gull.jpg; change it there" in done.stderr


def crop_of(sarvel: Run, crop: str) -> dict[str, object]:
    """What `sarvel plan` says of a crop of gull.jpg in the banner."""
    (picture,) = json.loads(sarvel("plan", "banner", "--json").stdout)["slots"][0]["pictures"]
    return next(one for one in picture["crops"] if one["crop"] == crop)


def test_the_file_of_a_master_and_the_file_of_subjects_place_crops(site: Path, sarvel: Run) -> None:
    """The plan comes first, then the metadata, then the file of subjects; the master has 900×600 px, its phone crop 600×600."""
    plan = PLAN.replace("subject = [0.2, 0.2, 0.4, 0.4]\n", "")
    (site / "sarvel.toml").write_text(plan)
    assert crop_of(sarvel, "phone")["box"] == [150, 0, 750, 600]
    (site / "subjects.csv").write_text("file,left,top,right,bottom\nmasters/gull.jpg,630,120,810,300\n")
    imported = plan.replace("[site]", '[site]\nsubjects = "subjects.csv"')
    (site / "sarvel.toml").write_text(imported)
    assert crop_of(sarvel, "phone")["box"] == [300, 0, 900, 600]
    document = json.loads(sarvel("subjects", "--json").stdout)["subjects"]["gull.jpg"]
    assert document["from"] == "import" and document["boxes"] == [pytest.approx([0.7, 0.2, 0.9, 0.5])]
    (site / "subjects.csv").write_text("file,left,top,right,bottom,sure\nmasters/gull.jpg,0,120,180,300,0.6\n")
    assert crop_of(sarvel, "phone")["box"] == [0, 0, 600, 600] and "60%" in sarvel("subjects").stdout
    with Image.open(site / "masters" / "gull.jpg") as image:
        image.save(site / "masters" / "gull.jpg", xmp=mwg(around(Box(0.8, 0.1, 0.9, 0.3))).encode())
    assert crop_of(sarvel, "phone")["box"] == [300, 0, 900, 600]
    assert json.loads(sarvel("subjects", "--json").stdout)["subjects"]["gull.jpg"]["from"] == "file"
    assert "0 subjects saved" in sarvel("subjects", "--save").stdout
    (site / "sarvel.toml").write_text(imported.replace('alt = "A gull"', 'alt = "A gull"\nsubject = [0, 0, 0.1, 0.1]'))
    assert crop_of(sarvel, "phone")["box"] == [0, 0, 600, 600]


def test_a_changed_file_of_subjects_makes_other_files(site: Path, sarvel: Run) -> None:
    (site / "sarvel.toml").write_text(
        PLAN.replace("subject = [0.2, 0.2, 0.4, 0.4]\n", "").replace("[site]", '[site]\nsubjects = "s.csv"')
    )
    (site / "s.csv").write_text("file,x,y\ngull.jpg,0.1,0.5\nother.jpg,0.1,0.5\n")
    done = sarvel("build")
    assert done.returncode == 0 and "s.csv:3: there is no master other.jpg; write its path" in done.stderr
    before = sorted(file.name for file in (site / "public" / "pictures").iterdir())
    (site / "s.csv").write_text("file,x,y\ngull.jpg,0.9,0.5\n")
    assert sarvel("build").returncode == 0
    assert sorted(file.name for file in (site / "public" / "pictures").iterdir()) != before
    (site / "s.csv").write_text("file,x,y\ngull.jpg,9000,1\n")
    done = sarvel("build")
    assert done.returncode == 1 and "s.csv:2: lies outside of gull.jpg, which has 900×600 px" in done.stderr
    (site / "s.csv").unlink()
    done = sarvel("build")
    assert done.returncode == 2 and "mend site.subjects or the file" in done.stderr


def test_the_page_of_what_is_to_decide(unsure: Path, sarvel: Run) -> None:
    done = sarvel("subjects", "--page")
    assert "written: subjects.html: 2 masters, 1 to decide" in done.stdout
    page = (unsure / "subjects.html").read_text()
    assert page.count("data:image/webp;base64,") == 2 and page.index("two.png") < page.index("gull.jpg")
    assert "http" not in page and (unsure / "sarvel.toml").read_text() == PLAN.replace(
        "subject = [0.2, 0.2, 0.4, 0.4]\n", ""
    )
    (unsure / "own.html").write_text("mine")
    assert sarvel("subjects", "--page", "--output", "own.html").returncode == 2
    (unsure / "pages" / "index.html").write_text('<img data-sarvel="badge" src="../masters/two.png">')
    assert "nothing to decide" in sarvel("subjects", "--page").stdout
