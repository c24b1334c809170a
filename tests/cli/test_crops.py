"""Art direction through the installed program: zoom, boxes by hand, other masters, treatments."""

import json
import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.conftest import PLAN, Run

QUARTERS = np.array(
    [[[250, 20, 20], [20, 250, 20]], [[20, 20, 250], [250, 250, 20]]], np.uint8
)  # red green / blue yellow


@pytest.fixture
def quarters(site: Path) -> Path:
    """The gull is four quarters of color, 800×400."""
    Image.fromarray(QUARTERS.repeat(200, axis=0).repeat(400, axis=1)).save(site / "masters" / "gull.png")
    (site / "pages" / "index.html").write_text('<img data-sarvel="look" src="../masters/gull.png" alt="">')
    return site


def made(site: Path, sarvel: Run, slot: str, rest: str = "") -> np.ndarray:
    (site / "sarvel.toml").write_text(
        f'{PLAN}[slots.look]\nsizes = "100px"\nformats = ["png"]\ndensities = [1]\n{slot}\n{rest}'
    )
    done = sarvel("render", "--json")
    assert done.returncode == 0, done.stderr
    (name,) = (name for name in json.loads(done.stdout)["rendered"]["made"])
    with Image.open(site / "public" / "pictures" / name) as image:
        return np.asarray(image.convert("RGBA" if image.has_transparency_data else "RGB")).astype(int)


def corner_colors(pixels: np.ndarray) -> str:
    """The colors of the four corners, left top first, by letter."""
    height, width = pixels.shape[:2]
    places = (
        (height // 4, width // 4),
        (height // 4, 3 * width // 4),
        (3 * height // 4, width // 4),
        (3 * height // 4, 3 * width // 4),
    )
    names = dict(zip("RGBY", QUARTERS.reshape(4, 3).astype(int), strict=True))
    return "".join(min(names, key=lambda name: np.abs(names[name] - pixels[place][:3]).sum()) for place in places)


@pytest.mark.parametrize(
    ("slot", "rest", "corners", "size"),
    [
        ("", "", "RGBY", (100, 50)),
        ('rotate = "left"', "", "GYRB", (100, 200)),
        ('rotate = "right"', "", "BRYG", (100, 200)),
        ('rotate = "half"', "", "YBGR", (100, 50)),
        ("mirror = true", "", "GRYB", (100, 50)),
        ('rotate = "left"\nmirror = true', "", "YGBR", (100, 200)),
        ('crops = "1:1"', '[masters."gull.png"]\nsubject = [0.9, 0.4, 1.0, 0.6]', "GGYY", (100, 100)),
        ("", '[masters."gull.png".crops.look.all]\nbox = [0.0, 0.0, 0.5, 0.5]', "RRRR", (100, 50)),
        ('crops = "1:1"\nzoom = 2', '[masters."gull.png"]\nsubject = [0.05, 0.1]', "RRRR", (100, 100)),
        ('crops = "1:1"\nzoom = 2\nsubject_at = [0.0, 0.0]', '[masters."gull.png"]\nsubject = [0.5, 0.5]', "YYYY", (100, 100)),
        ('rotate = "left"\ncrops = "1:1"', '[masters."gull.png"]\nsubject = [0.9, 0.4, 1.0, 0.6]', "GYGY", (100, 100)),
    ],
)  # fmt: skip
@pytest.mark.usefixtures("quarters")
def test_what_each_look_makes(
    site: Path, sarvel: Run, slot: str, rest: str, corners: str, size: tuple[int, int]
) -> None:
    pixels = made(site, sarvel, slot, rest)
    assert (pixels.shape[1], pixels.shape[0]) == size and corner_colors(pixels) == corners


@pytest.mark.usefixtures("quarters")
def test_padding_background_and_grey(site: Path, sarvel: Run) -> None:
    padded = made(site, sarvel, 'crops = "1:1"\npad = "#102030"')
    assert (
        padded.shape[:2] == (100, 100)
        and (padded[:24] == (16, 32, 48)).all()
        and corner_colors(padded[25:75]) == "RGBY"
    )
    grey = made(site, sarvel, "grey = true")
    assert np.ptp(grey, axis=2).max() == 0
    Image.new("RGBA", (200, 100), (255, 255, 255, 0)).save(site / "masters" / "gull.png")
    laid = made(site, sarvel, 'matte = "#ff8000"\nformats = ["jpeg"]'.replace('formats = ["jpeg"]', ""))
    assert laid.shape[2] == 3 and np.abs(laid - (255, 128, 0)).max() <= 1


@pytest.mark.usefixtures("quarters")
def test_a_crop_from_another_master(site: Path, sarvel: Run) -> None:
    Image.new("RGB", (300, 300), (20, 20, 250)).save(site / "masters" / "close.png")
    pixels = made(site, sarvel, "", '[masters."gull.png".crops.look.all]\nfrom = "close.png"')
    assert corner_colors(pixels) == "BBBB"
    (site / "masters" / "close.png").unlink()
    done = sarvel("render")
    assert done.returncode == 1 and re.search(
        r'sarvel\.toml:\d+: masters\."gull\.png": close\.png: there is no such file', done.stderr
    )


@pytest.mark.parametrize(
    ("plan", "words"),
    [
        ('[masters."gull.jpg".crops.bannr.phone]\nzoom = 2', "no slot 'bannr'; did you mean 'banner'?"),
        ('[masters."gull.jpg".crops.banner.phoen]\nzoom = 2', "no crop 'phoen' in slot banner; did you mean 'phone'?"),
        ('[masters."gull.jpg".crops.banner.phone]\nbox = [0, 0, 0, 1]', "got [0, 0, 0, 1]; write a crop by hand"),
        ('[slots.x]\nsizes = "1px"\nzoom = 0.5', "slots.x.zoom: got 0.5; write a number from 1 to 20"),
        ('[slots.x]\nsizes = "1px"\npad = "red"', 'slots.x.pad: got "red"; write a color such as "#f4efe6"'),
        ('[slots.x]\nsizes = "1px"\nsubject_at = [2, 0]', "slots.x.subject_at: got [2, 0]; write a pair of fractions"),
        (
            '[slots.x]\nsizes = "1px"\n[[slots.x.crops]]\nwhen = "(min-width: 600px)"\nratio = "1:1"\n[[slots.x.crops]]\nwhen = "(min-width: 900px)"\nratio = "2:1"\n[[slots.x.crops]]\nratio = "3:1"',
            "slots.x.crops.1: no device can meet it: on 900 px and up the crops before it always hold",
        ),
        (
            '[slots.x]\nsizes = "1px"\n[[slots.x.crops]]\nwhen = "(min-width: 900px)"\nratio = "1:1"\n[[slots.x.crops]]\nwhen = "(max-width: 600px)"\nratio = "2:1"',
            "slots.x.crops: no crop is sure to hold on 601 to 899 px; end with a crop without `when`",
        ),
    ],
)  # fmt: skip
def test_wrong_crops(site: Path, sarvel: Run, plan: str, words: str) -> None:
    (site / "sarvel.toml").write_text(f"{PLAN}{plan}\n")
    done = sarvel("plan")
    assert done.returncode == 2 and words in done.stderr


def test_changing_one_crop_renders_that_crop_alone(rendered: Path, sarvel: Run) -> None:
    before = {file.name for file in (rendered / "public" / "pictures").iterdir()}
    (rendered / "sarvel.toml").write_text(PLAN + '[masters."gull.jpg".crops.banner.desktop]\nzoom = 1.5\n')
    made = json.loads(sarvel("render", "--json").stdout)["rendered"]["made"]
    assert made and all(name.startswith("gull-banner-desktop-") for name in made) and not before & set(made)
