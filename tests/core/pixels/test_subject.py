"""What stands out: the demo's masters, whose drawing code knows, and shapes on plain and noisy grounds."""

import numpy as np
import pytest

from sarvel.core.crop.place import Box, kept
from sarvel.core.pixels.resample import Pixels
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
