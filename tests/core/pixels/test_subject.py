"""What stands out: the demo's masters, whose drawing code knows, and shapes on plain and noisy grounds."""

import numpy as np
import pytest
from numpy.typing import NDArray
from scipy import ndimage
from scripts.drawings import boat, keeper, lens, lighthouse

from sarvel.core.crop.place import Box, kept
from sarvel.core.facts import FoundSubject
from sarvel.core.pixels.closed_shapes import closed_shapes, votes_of
from sarvel.core.pixels.colors import set_off, skin_hereabouts, unforeseen, unlike_edges
from sarvel.core.pixels.detail import Detail
from sarvel.core.pixels.resample import Pixels
from sarvel.core.pixels.small import averaged, lab_of, reduced, scaled
from sarvel.core.pixels.standing_out import BIAS, WEIGHTS, cues_of
from sarvel.core.pixels.subject import find_subject
from sarvel.demo import SITE
from sarvel.encode.decode import read_pixels


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
    assert overlap(found.box, Box(x - radius, y - radius / 0.75, x + radius, y + radius / 0.75)) > 0.5
    assert found.sure > 0.7


def test_of_two_discs_each_is_a_guess() -> None:
    two = disc_at(0.2, 0.5, 0.1)
    two[:, 200:] = disc_at(0.8, 0.5, 0.08)[:, 200:]
    found = find_subject(two)
    for guess, x, radius in zip((found.box, *found.others), (0.2, 0.8), (0.1, 0.08), strict=False):
        assert overlap(guess, Box(x - radius, 0.5 - radius / 0.75, x + radius, 0.5 + radius / 0.75)) > 0.4
    assert 1 <= len(found.others) <= 2 and not kept(found.box, found.others[0])


def test_nobody_is_sure_which_of_two_that_are_alike_it_is() -> None:
    one, two = (np.full((400, 800, 3), (90, 120, 150), np.uint8) for _ in range(2))
    one[150:260, 80:190] = two[150:260, 80:190] = two[150:260, 600:710] = (220, 60, 30)
    assert find_subject(one).sure > 0.8
    assert find_subject(two).sure == pytest.approx(0.5, abs=0.1)


def test_a_flat_picture_is_about_all_of_itself_and_nobody_is_sure() -> None:
    found = find_subject(np.full((50, 80, 3), 120, np.uint8))
    assert (found.box, found.sure) == (Box(0, 0, 1, 1), 0)


def test_what_is_transparent_does_not_stand_out() -> None:
    picture = np.dstack([disc_at(0.25, 0.5, 0.1), np.full((300, 400), 255, np.uint8)])
    picture[:, 200:, 3] = 0
    picture[100:200, 280:340, :3] = 255  # bright, and invisible
    assert find_subject(picture).box.right < 0.55


def test_what_is_in_focus_stands_out_against_what_is_blurred() -> None:
    """Detail of all sizes on both sides, and one of them out of focus: no color and no shape tells them apart."""
    dice = np.random.default_rng(2)
    texture: NDArray[np.float64] = np.sum(
        [ndimage.zoom(dice.normal(0, 12, (240 // size, 360 // size)), size, order=1) for size in (1, 2, 4, 8, 20)],
        axis=0,
    )
    blurred = ndimage.gaussian_filter(texture, 5)
    for side in (slice(0, 180), slice(180, 360)):
        light = 128 + blurred
        light[:, side] = 128 + texture[:, side]
        cues = cues_of(np.clip(light, 0, 255).astype(np.uint8)[..., None].repeat(3, axis=2))
        assert cues
        likely = cues.likely(WEIGHTS, BIAS)
        halves = likely[:, :32].mean(), likely[:, 32:].mean()
        assert (halves[0] > halves[1]) == (side.start == 0)


def test_colors_as_people_see_them() -> None:
    """CIE 15:2018: white, black, and a grey of L* 50, which in sRGB is 119."""
    found = lab_of(np.array([[[255, 255, 255], [0, 0, 0], [119, 119, 119]]], np.uint8))[:, 0].T
    assert found == pytest.approx(np.array([[100, 0, 0], [0, 0, 0], [50, 0, 0]]), abs=0.1)
    assert reduced(np.zeros((900, 300, 3), np.uint8), 90).shape == (90, 30, 3)


def test_every_cue_of_a_disc_is_highest_in_it_or_on_its_outline() -> None:
    sharp = reduced(disc_at(0.3, 0.4, 0.12, noise=3.0), 400)
    small = reduced(sharp, 64)
    lab = lab_of(small)
    inside = np.hypot((np.arange(64) + 0.5) / 64 - 0.3, ((np.arange(48)[:, None] + 0.5) / 48 - 0.4) * 0.75) < 0.14
    detail = Detail(lab_of(sharp)[0], (48, 64))
    shapes = closed_shapes(lab, [set_off(lab)], np.ones((48, 64)))
    for field in (set_off(lab), unlike_edges(lab), unforeseen(lab), votes_of(shapes, (48, 64)), detail.texture):
        assert field.min() >= 0 and inside[np.unravel_index(field.argmax(), field.shape)]
        assert field[inside].mean() > 3 * field[~inside].mean()


def test_a_shape_along_the_edge_is_less_crisp_than_one_that_lies_free() -> None:
    free, cut_off = (
        max(shape.crisp for shape in closed_shapes(lab, [unlike_edges(lab)], np.ones(lab.shape[1:])))
        for lab in (lab_of(reduced(disc_at(x, 0.5, 0.15), 64)) for x in (0.5, 0.0))
    )
    assert free > 2 * cut_off
    assert not closed_shapes(np.zeros((3, 20, 20)), [np.zeros((20, 20))], np.zeros((20, 20)))
    assert not votes_of([], (3, 4)).any()


def test_skin_of_all_shades_counts_and_other_colors_do_not() -> None:
    """The shades of the Monk scale's second, fifth and eighth tone, by their sRGB values; blue, green and grey."""
    skin, other = (
        [float(skin_hereabouts(np.full((9, 9, 3), color, np.uint8)).mean()) for color in colors]
        for colors in (
            [(0xF3, 0xE7, 0xDB), (0xD7, 0xBD, 0x96), (0x60, 0x41, 0x34)],
            [(40, 70, 160), (60, 140, 60), (128, 128, 128)],
        )
    )
    assert min(skin[1:]) > 2 * max(other)


def test_averages_over_a_coarser_grid_and_values_scaled() -> None:
    field = np.arange(24.0).reshape(4, 6)
    assert averaged(field, (2, 3)) == pytest.approx(field.reshape(2, 2, 3, 2).mean(axis=(1, 3)))
    assert averaged(field, (1, 4)).mean() == pytest.approx(field.mean())
    assert scaled(np.arange(101.0))[[0, 1, 50, 99, 100]] == pytest.approx([0, 0, 0.5, 1, 1], abs=1e-6)


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
