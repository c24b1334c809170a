"""`sarvel survey` through the installed program."""

import json
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.conftest import Run

PAGE = """\
<link rel="stylesheet" href="site.css">
<img src="img/gull.jpg" width="200" alt="">
<img src="img/gull.jpg" width="400" alt="">
<img src="img/none.jpg" alt="">
<script>const more = "img/late.png";</script>
"""


@pytest.fixture
def before(tmp_path: Path) -> Path:
    """A site that knows nothing of Sarvel."""
    site = tmp_path / "site"
    (site / "img").mkdir(parents=True)
    (site / "node_modules").mkdir()
    waves = np.sin(np.arange(1600) / 40)[None, :] * np.cos(np.arange(1200) / 30)[:, None]
    picture = Image.fromarray(((waves[..., None] + [1, 1.1, 0.9]) * 80).clip(0, 255).astype(np.uint8))
    for name in ("gull.jpg", "sea.jpg", "idle.jpg"):
        picture.save(site / "img" / name, quality=90)
    Image.new("RGBA", (20, 20)).save(site / "img" / "late.png")
    (site / "node_modules" / "else.png").write_bytes(b"")
    (site / "page.html").write_text(PAGE)
    (site / "site.css").write_text("body { background: url(img/sea.jpg) }")
    return site


@pytest.mark.usefixtures("before")
def test_the_worst_comes_first_and_all_is_told(sarvel: Run) -> None:
    done = sarvel("survey")
    lines = [line.split() for line in done.stdout.splitlines()]
    rows = [line for line in lines if len(line) > 2 and line[2].startswith("img/") and line[0].startswith("~")]
    assert [row[2] for row in rows] == ["img/gull.jpg", "img/sea.jpg"]  # fetched by all alike, and shown smaller
    assert "200–400" in done.stdout and "×4.0" in done.stdout
    assert (
        "nothing here names 1 file" in done.stdout and "img/idle.jpg" in done.stdout and "late.png" not in done.stdout
    )
    assert "4 image files" in done.stdout and "next to 1 page and 1 stylesheet" in done.stdout
    assert "an estimate, from small encodes of 2 of them" in done.stdout
    assert done.returncode == 0 and done.stderr == "page.html:4:6: there is no file img/none.jpg\n"


def test_json_tells_the_same_and_paths_narrow_it(before: Path, sarvel: Run) -> None:
    told = json.loads(sarvel("survey", "--json").stdout)
    by_name = {Path(one["file"]).name: one for one in told["files"]}
    gull = by_name["gull.jpg"]
    assert gull["bytes"] == (before / "img" / "gull.jpg").stat().st_size
    assert [(use["line"], use["column"], use["kind"]) for use in gull["uses"]] == [(2, 6, "img"), (3, 6, "img")]
    # The widest need is 400 CSS px at twice the density, but no wider than the narrowest phone at that density.
    assert gull["needed_width"] == 800 and gull["pixels_too_many"] == 4
    assert 0 < gull["estimated_bytes"] < gull["bytes"] and gull["estimated_from_its_own_picture"]
    assert told["unused"] == ["img/idle.jpg"] and by_name["late.png"]["mentioned"]
    assert told["missing"] == [{"file": "page.html", "line": 4, "column": 6, "url": "img/none.jpg"}]
    assert [Path(one["file"]).name for one in json.loads(sarvel("survey", "img", "--json").stdout)["files"]] == [
        "gull.jpg",
        "idle.jpg",
        "sea.jpg",
        "late.png",
    ]
    done = sarvel("survey", "nowhere")
    assert done.returncode == 2 and done.stderr == "nowhere: there is no such file or folder; name one that is\n"


@pytest.mark.usefixtures("rendered")
def test_a_site_of_ours_leaves_its_renditions_out(sarvel: Run) -> None:
    told = json.loads(sarvel("survey", "--json").stdout)
    assert {one["file"] for one in told["files"]} == {"masters/gull.jpg", "masters/seal.png"}
    assert all(one["uses"] for one in told["files"])
