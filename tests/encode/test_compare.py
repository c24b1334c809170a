"""Renditions held against their master: the piece is as the press makes it, and where they differ most."""

import io
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from sarvel.core.crop.place import Box
from sarvel.core.model import Treatment
from sarvel.core.pixels.resample import pixels_from_light
from sarvel.encode.compare import WINDOW, CompareWork, CropFiles, compare
from sarvel.encode.decode import decode
from sarvel.encode.rungs import rung
from sarvel.encode.work import CropWork

SIZE = (600, 400)
FAULT = (400, 250, 440, 280)  # where a rendition is spoilt, px of the rung


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    random = np.random.default_rng(3)
    blocks = random.integers(0, 256, (30, 40, 3), np.uint8).repeat(50, axis=0).repeat(50, axis=1)
    file = tmp_path_factory.mktemp("masters") / "m.png"
    Image.fromarray(blocks).save(file)
    return file


def opened(content: bytes) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(content)).convert("RGB"))


@pytest.mark.parametrize(
    ("box", "treatment"),
    [(Box(0, 0, 2000, 1333.3), Treatment()), (Box(100.5, 20.25, 1300.5, 820.25), Treatment(mirror=True)), (Box(0, 0, 1500, 1000), Treatment(rotate="left", grey=True))],
)  # fmt: skip
def test_the_piece_is_where_the_difference_is_and_as_the_press_makes_it(
    master: Path, tmp_path: Path, box: Box, treatment: Treatment
) -> None:
    crop = CropWork(box, treatment, "srgb")
    whole = pixels_from_light(rung(decode(master, "m.png", "srgb"), crop, SIZE))
    good = np.broadcast_to(whole, (*whole.shape[:2], 3))
    spoilt = good.copy()
    spoilt[FAULT[1] : FAULT[3], FAULT[0] : FAULT[2]] ^= 255
    for name, pixels in (("webp", good), ("avif", spoilt)):
        Image.fromarray(np.ascontiguousarray(pixels)).save(tmp_path / f"{name}.png")
    files = {name: tmp_path / f"{name}.png" for name in ("avif", "webp")}
    [found] = compare(CompareWork(master, "m.png", "", (CropFiles("one", crop, SIZE, files),)))
    assert found.size == WINDOW
    piece = opened(found.views["master"])
    at = [
        (top, left)
        for top in range(SIZE[1] - WINDOW[1] + 1)
        for left in range(SIZE[0] - WINDOW[0] + 1)
        if np.array_equal(good[top, left], piece[0, 0])
        and np.array_equal(good[top : top + WINDOW[1], left : left + WINDOW[0]], piece)
    ]
    assert at, "the piece is one of the rung, bit for bit"
    top, left = at[0]
    assert left <= FAULT[0] and FAULT[2] <= left + WINDOW[0] and top <= FAULT[1] and FAULT[3] <= top + WINDOW[1]
    assert set(found.views) == {"master", "avif"} and set(found.maps) == {"avif"}
    assert found.differences["webp"] == 0 < found.differences["avif"]


def test_what_cannot_be_compared_is_left_out(master: Path, tmp_path: Path) -> None:
    crop = CropWork(Box(0, 0, 1500, 1000), Treatment(), "srgb")
    Image.new("RGB", (9, 9)).save(tmp_path / "other.png")
    for files in ({"avif": tmp_path / "gone.png"}, {"avif": tmp_path / "other.png"}):
        assert compare(CompareWork(master, "m.png", "", (CropFiles("one", crop, SIZE, files),))) == []
    assert compare(CompareWork(tmp_path / "other.txt", "m.png", "", ())) == []
