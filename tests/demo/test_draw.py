"""The demo's masters are what its drawing code draws, and as the plan wants them."""

import tomllib
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from scripts.drawings import boat, chart, crest, keeper, lens, lighthouse

from sarvel.core.crop.place import Box
from sarvel.core.pixels.resample import pixels_from_light, reduce_pixels
from sarvel.demo import SITE
from sarvel.encode.decode import read_pixels
from sarvel.plan import schema
from tests.conftest import run_sarvel

MASTERS = SITE / "masters"
SIZES = {
    "lamp-at-dusk.jpg": (4800, 3200),
    "supply-boat.jpg": (4200, 2800),
    "keeper-at-the-rail.jpg": (2400, 3200),
    "great-lens.jpg": (3000, 3000),
    "sea-chart.png": (3000, 2100),
    "crest.png": (1200, 1200),
}


@pytest.mark.parametrize(("name", "size"), SIZES.items())
def test_size_and_weight(name: str, size: tuple[int, int]) -> None:
    assert (MASTERS / name).stat().st_size <= 2_000_000
    with Image.open(MASTERS / name) as image:
        assert image.size == size and image.mode == ("RGBA" if name == "crest.png" else "RGB")


@pytest.mark.parametrize(
    ("name", "module", "share"),
    [
        ("lamp-at-dusk.jpg", lighthouse, 8),
        ("supply-boat.jpg", boat, 8),
        ("great-lens.jpg", lens, 6),
        ("crest.png", crest, 4),
    ],
)
def test_drawn_small_they_look_like_the_masters_reduced(name: str, module: object, share: int) -> None:
    width, height = SIZES[name]
    drawn = module.draw(width // share, height // share).astype(float)  # type: ignore[attr-defined]
    master = read_pixels(MASTERS / name, name)
    reduced = pixels_from_light(
        reduce_pixels(master, Box(0, 0, width, height), width // share, height // share)
    ).astype(float)
    if drawn.shape[2] == 4:  # what nobody sees may be of any color
        drawn[..., :3] *= drawn[..., 3:] / 255
        reduced[..., :3] *= reduced[..., 3:] / 255
    # Grain is drawn for each pixel and goes as a picture is reduced; what is left is within a few levels.
    assert np.abs(drawn - reduced).mean() < 6


def test_the_plan_names_the_subjects_that_were_drawn() -> None:
    plan = tomllib.loads((SITE / "sarvel.toml").read_text())["masters"]
    for name, module in (
        ("lamp-at-dusk.jpg", lighthouse),
        ("supply-boat.jpg", boat),
        ("keeper-at-the-rail.jpg", keeper),
    ):
        assert tuple(plan[name]["subject"]) == module.SUBJECT
    assert all(0 <= left < right <= 1 for left, _, right, _ in (lens.SUBJECT, chart.SUBJECT, crest.SUBJECT))


def test_the_lens_reduced_shows_no_moire() -> None:
    """Where rings are finer than the pixels left, nothing but the slow changes of the glass may remain.

    The second way: each ring's light averaged over a disc as wide as several rings, which no aliasing survives.
    """
    master = read_pixels(MASTERS / "great-lens.jpg", "great-lens.jpg")
    small = round(3000 / 7.3)
    reduced = reduce_pixels(master, Box(0, 0, 3000, 3000), small, small)[1]
    y, x = np.indices(reduced.shape)
    far = np.hypot(x + 0.5 - small / 2, y + 0.5 - small / 2) / small
    angle = np.arctan2(y + 0.5 - small / 2, x + 0.5 - small / 2)
    # A sector of the outer glass between two ribs: 0.41 of the picture is where a ring is 9.6 px, 1.3 px once reduced.
    sector = (far > 0.41) & (far < 0.43) & (np.abs(angle) < 0.35)
    fitted = np.polyfit(angle[sector], reduced[sector], 4)
    rest = reduced[sector] - np.polyval(fitted, angle[sector])
    assert rest.std() < 0.02 * reduced[sector].mean()


def test_the_demo_uses_every_key_of_the_plan() -> None:
    plan = tomllib.loads((SITE / "sarvel.toml").read_text())
    tables: list[tuple[type[schema.PlanTable], list[dict[str, object]]]] = [
        (schema.PlanFile, [plan]),
        (schema.SiteTable, [plan["site"]]),
        (schema.DefaultsTable, [plan["defaults"]]),
    ]
    tables += [(schema.SlotTable, list(plan["slots"].values())), (schema.MasterTable, list(plan["masters"].values()))]
    for model, said in tables:
        # Special cases: what is said of single crops, of encoders, of metadata, of odd files, or for all slots.
        finishing = {"gamut", "metadata", "interlace"}
        special: dict[type[schema.PlanTable], set[str]] = {
            schema.PlanFile: {"data"},
            schema.SiteTable: {
                "alt",
                "base",
                "component",
                "delivery",
                "dialects",
                "formats_by",
                "masters_kept",
                "outside",
                "reads",
                "subjects",
            },
            schema.DefaultsTable: {"name", *finishing},
            schema.SlotTable: {
                "soft",
                "effort",
                "name",
                "selectors",
                "reserve",
                "auto_sizes",
                *schema.LookKeys.model_fields,
                *finishing,
            },
            schema.MasterTable: {"crops", "kind"},
        }
        keys = set(model.model_fields) - special.get(model, set())
        assert keys == {key for table in said for key in table}, model


def test_a_folder_in_use_is_left_alone(tmp_path: Path) -> None:
    (tmp_path / "brindle-rock").mkdir()
    (tmp_path / "brindle-rock" / "mine.txt").write_text("mine")
    done = run_sarvel("demo", cwd=tmp_path)
    assert (
        done.returncode == 2
        and "brindle-rock: is there already and not empty; name a new folder: sarvel demo FOLDER" in done.stderr
    )
    assert [file.name for file in (tmp_path / "brindle-rock").iterdir()] == ["mine.txt"]
