"""What stands out: the demo's masters, whose drawing code knows, and shapes on plain and noisy grounds."""

import numpy as np
import pytest
from scipy import ndimage

from sarvel.core.crop.place import Box, kept
from sarvel.core.facts import FoundSubject
from sarvel.core.pixels.resample import Pixels
from sarvel.core.pixels.set_off import crispest_shape
from sarvel.core.pixels.small import lab_of, reduced
from sarvel.core.pixels.standing_out import standing_out
from sarvel.core.pixels.subject import find_subject
from sarvel.demo import SITE
from sarvel.demo.draw import boat, keeper, lens, lighthouse
from sarvel.press.decode import read_pixels


def overlap(a: Box, b: Box) -> float:
    """Intersection over union."""
    common = kept(a, b) * b.width * b.height
    return common / (a.width * a.height + b.width * b.height - common)


@pytest.mark.parametrize(
    ("name", "subject"),
    [
        ("lamp-at-dusk.jpg", lighthouse.SUBJECT),
        ("supply-boat.jpg", boat.SUBJECT),
        ("keeper-at-the-rail.jpg", keeper.SUBJECT),
        ("great-lens.jpg", lens.SUBJECT),
    ],
)
def test_the_demos_pictures(name: str, subject: tuple[float, float, float, float]) -> None:
    found = find_subject(read_pixels(SITE / "masters" / name, name))
    assert overlap(found.box, Box(*subject)) >= 0.5
    assert 0.2 < found.sure <= 1


def disc_at(x: float, y: float, radius: float, *, noise: float = 0.0) -> Pixels:
    rows, columns = np.indices((300, 400))
    inside = np.hypot(columns / 400 - x, (rows / 300 - y) * 0.75) < radius
    ground = np.where(inside[..., None], (200, 60, 40), (90, 120, 150)) + np.random.default_rng(1).normal(
        0, noise + 1e-9, (300, 400, 3)
    )
    return np.clip(ground, 0, 255).astype(np.uint8)


@pytest.mark.parametrize(("x", "y", "radius"), [(0.5, 0.5, 0.2), (0.2, 0.3, 0.08), (0.8, 0.7, 0.1)])
@pytest.mark.parametrize("noise", [0.0, 20.0])
def test_a_disc_is_found_where_it_is(x: float, y: float, radius: float, noise: float) -> None:
    found = find_subject(disc_at(x, y, radius, noise=noise))
    assert overlap(found.box, Box(x - radius, y - radius / 0.75, x + radius, y + radius / 0.75)) > 0.7


def test_a_flat_picture_is_about_all_of_itself_and_nobody_is_sure() -> None:
    found = find_subject(np.full((50, 80, 3), 120, np.uint8))
    assert (found.box, found.sure) == (Box(0, 0, 1, 1), 0)


def test_what_is_transparent_does_not_stand_out() -> None:
    picture = np.dstack([disc_at(0.25, 0.5, 0.1), np.full((300, 400), 255, np.uint8)])
    picture[:, 200:, 3] = 0
    picture[100:200, 280:340, :3] = 255  # bright, and invisible
    assert find_subject(picture).box.right < 0.55


def test_what_is_in_focus_stands_out_against_what_is_blurred() -> None:
    """Noise of one spread on both sides, smoothed on one of them: no color and no shape tells them apart."""
    noise = np.random.default_rng(2).normal(0, 40, (240, 360))
    blurred = ndimage.gaussian_filter(noise, 6)
    blurred *= noise.std() / blurred.std()
    for side in (slice(0, 180), slice(180, 360)):
        light = 128 + blurred
        light[:, side] = 128 + ndimage.gaussian_filter(noise, 1)[:, side] * 2
        likely = standing_out(np.clip(light, 0, 255).astype(np.uint8)[..., None].repeat(3, axis=2))
        halves = likely[:, : likely.shape[1] // 2].mean(), likely[:, likely.shape[1] // 2 :].mean()
        assert (halves[0] > halves[1]) == (side.start == 0)


def test_colors_as_people_see_them() -> None:
    """CIE 15:2018: white, black, and a grey of L* 50, which in sRGB is 119."""
    found = lab_of(np.array([[[255, 255, 255], [0, 0, 0], [119, 119, 119]]], np.uint8))[:, 0].T
    assert found == pytest.approx(np.array([[100, 0, 0], [0, 0, 0], [50, 0, 0]]), abs=0.1)
    assert reduced(np.zeros((900, 300, 3), np.uint8), 90).shape == (90, 30, 3)


def test_a_crisp_shape_needs_an_outline() -> None:
    shape = crispest_shape(disc_at(0.5, 0.5, 0.2))
    assert shape and shape[0] > 1.45
    assert crispest_shape(np.full((50, 80, 3), 120, np.uint8)) is None


@pytest.mark.parametrize(
    ("box", "sure", "count"),
    [((0.2, 0.2, 0.4, 0.8), 0.8, 2), ((0.2, 0.2, 0.4, 0.8), 0.49, 0), ((0.02, 0.02, 1, 1), 0.9, 0)],
)
def test_a_guess_that_says_nothing_is_none(box: tuple[float, ...], sure: float, count: int) -> None:
    subjects = FoundSubject(Box(*box), sure).subjects
    assert len(subjects) == count
    if count:
        outer, inner = subjects
        assert inner.top == outer.top and inner.height == pytest.approx(0.3 * outer.height)
