"""Treatments against what they must come to."""

from functools import partial

import numpy as np

from sarvel.core.crop.place import padded
from sarvel.core.pixels.resample import Light, pixels_from_light, reduce_pixels
from sarvel.core.pixels.treat import grey_of, lay_on, light_of_color, pad_out


def test_padding_adds_its_color_beside_the_whole_picture() -> None:
    picture = np.full((30, 30, 3), 200, np.uint8)
    made = pixels_from_light(
        pad_out(partial(reduce_pixels, picture), padded(30, 30, 2), 40, 20, light_of_color("#102030"))
    )
    assert made.shape == (20, 40, 3)
    assert (made[:, 10:30] == 200).all()
    assert (made[:, :10] == (16, 32, 48)).all() and (made[:, 30:] == (16, 32, 48)).all()


def test_a_background_shows_through_by_the_light_that_is_let_through() -> None:
    light: Light = np.zeros((4, 1, 3), np.float32)
    light[:, 0, 1] = (0.25, 0.25, 0.25, 0.5)  # half opaque, of light 0.5
    light[:, 0, 2] = (1, 1, 1, 1)
    laid = lay_on(light, light_of_color("#ffffff"))
    assert laid.shape == (3, 1, 3) and laid[0, 0].tolist() == [1, 0.75, 1]
    opaque: Light = np.ones((3, 2, 2), np.float32)
    assert lay_on(opaque, light_of_color("#000000")) is opaque


def test_grey_keeps_the_luminance_and_whites_and_alpha() -> None:
    light: Light = np.array([[[1, 1]], [[0, 1]], [[0, 1]], [[0.5, 1]]], np.float32)
    grey = grey_of(light)
    assert (
        np.allclose(grey[:3, 0, 0], 0.2126, atol=1e-4)
        and np.allclose(grey[:3, 0, 1], 1)
        and grey[3].tolist() == [[0.5, 1]]
    )
    assert light_of_color("#ffffff").tolist() == [1, 1, 1]
