"""One photograph in several files: what survey tells of it, and the master that start takes."""

import json
import tomllib
from pathlib import Path

import numpy as np
from PIL import Image

from tests.conftest import Run


def test_the_largest_is_the_master(tmp_path: Path, sarvel: Run) -> None:
    random = np.random.default_rng(3)
    for name, widths in (("boat", (300, 600, 1200)), ("hut", (300,))):
        scene = Image.fromarray(random.integers(0, 256, (6, 9, 3), np.uint8)).resize(
            (1200, 800), Image.Resampling.BICUBIC
        )
        for width in widths:
            scene.resize((width, width * 2 // 3)).save(tmp_path / f"{name}-{width}.jpg")
    Image.new("RGB", (600, 400)).save(tmp_path / "hut.jpg")  # its name, and another picture
    (tmp_path / "index.html").write_text(
        '<img class="a" src="boat-300.jpg" alt="A boat"><img class="b" src="hut-300.jpg" alt="A hut">'
    )
    found = {
        one["file"]: one["copy_of"] for one in json.loads(sarvel("survey", "--json", cwd=tmp_path).stdout)["files"]
    }
    assert found == {
        "boat-300.jpg": "boat-1200.jpg", "boat-600.jpg": "boat-1200.jpg", "boat-1200.jpg": None, "hut-300.jpg": None, "hut.jpg": None
    }  # fmt: skip
    told = sarvel("survey", cwd=tmp_path).stdout
    assert (
        "smaller copies of other files, not needed as masters: 2 files" in told
        and "boat-600.jpg, of boat-1200.jpg" in told
    )
    assert sarvel("start", cwd=tmp_path).returncode == 0
    plan = tomllib.loads((tmp_path / "sarvel.toml").read_text())
    assert [crop["from"] for crops in plan["masters"]["boat-300.jpg"]["crops"].values() for crop in crops.values()] == [
        "boat-1200.jpg"
    ]
    assert "hut-300.jpg" not in plan["masters"]
