"""One crop at one size."""

import numpy as np

from sarvel.core.crop.place import Box
from sarvel.core.model import Treatment
from sarvel.core.pixels.resample import pixels_from_light
from sarvel.encode.decode import Decoded
from sarvel.encode.rungs import rung
from sarvel.encode.work import CropWork


def test_a_rung_is_the_mean_of_its_box_treated() -> None:
    pixels = np.full((40, 60, 3), (200, 30, 30), np.uint8)
    pixels[:, 30:] = (30, 30, 200)
    master = Decoded.of(pixels)
    left = pixels_from_light(rung(master, CropWork(Box(0, 0, 20, 20), Treatment(), "srgb"), (4, 4)))
    assert (left == (200, 30, 30)).all()
    mirrored = pixels_from_light(rung(master, CropWork(Box(0, 0, 20, 20), Treatment(mirror=True), "srgb"), (4, 4)))
    assert (mirrored == (30, 30, 200)).all()
    padded = pixels_from_light(rung(master, CropWork(Box(0, -20, 60, 60), Treatment(pad="#00ff00"), "srgb"), (6, 8)))
    assert (padded[0] == (0, 255, 0)).all() and abs(padded[4, 0].astype(int) - (200, 30, 30)).max() < 20  # near a rim
