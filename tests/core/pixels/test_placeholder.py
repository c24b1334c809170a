"""Contours and placeholders."""

import re
from urllib.parse import unquote
from xml.dom import minidom

import numpy as np
import pytest

from sarvel.core.pixels.contours import contours, simplified
from sarvel.core.pixels.gamut import DISPLAY_P3, SRGB, SRGB_FROM_WIDE, WIDE_FROM_SRGB, xyz_of_primaries
from sarvel.core.pixels.placeholder import MOST_OUTLINE, escaped, outline, soft, tint
from sarvel.core.pixels.resample import Light
from sarvel.encode.placeholder_css import MOST_SOFT, background_of

ROWS, COLUMNS = np.mgrid[:60, :90].astype(float)
DISC = 25 - np.hypot(ROWS - 30, COLUMNS - 45)


def test_the_contour_of_a_disc_is_its_circle() -> None:
    (circle,) = contours(DISC, 0.0)
    assert np.array_equal(circle[0], circle[-1])
    assert np.abs(np.hypot(*(circle - (30, 45)).T) - 25).max() < 0.02
    few = simplified(circle, 0.5)
    assert len(few) < len(circle) / 4
    assert np.abs(np.hypot(*(few - (30, 45)).T) - 25).max() < 0.02


def test_contours_end_at_edges_and_keep_apart_what_saddles_join() -> None:
    (line,) = contours(COLUMNS, 44.5)
    assert np.allclose(line[:, 1], 44.5) and {line[0][0], line[-1][0]} == {0, 59}
    saddle = np.array([[1.0, 0, 0], [0, 1, 0], [0, 0, 0]])
    # Cells with a lone corner above the level have one side, the saddle two: 2 + 1 + 1 + 1.
    assert sum(len(one) - 1 for one in contours(saddle, 0.5)) == 5
    assert contours(np.zeros((9, 9)), 1.0) == [] and contours(np.zeros((1, 5)), 0.0) == []


def light(*colors: float, height: int = 40, width: int = 60) -> Light:
    planes = np.ones((3, height, width), np.float32)
    planes[:, :, : width // 2] = np.array(colors, np.float32)[:, None, None]
    return planes


def test_the_tint_is_what_the_picture_is_from_afar() -> None:
    assert tint(light(0, 0, 0)) == "#bcbcbc"  # half black, half white: 188, as design rule "Resampling" has it
    assert tint(light(1, 0, 0)) == "#ffbcbc"


@pytest.mark.parametrize("noise", [0.0, 0.5])
@pytest.mark.parametrize("size", [(1, 1), (3, 200), (300, 400)])
def test_placeholders_keep_to_their_bytes(size: tuple[int, int], noise: float) -> None:
    random = np.random.default_rng(2)
    picture = (np.full((3, *size), 0.4) + noise * random.uniform(-0.8, 0.8, (3, *size))).astype(np.float32)
    drawing = outline(picture)
    assert len(escaped(drawing)) <= MOST_OUTLINE
    assert minidom.parseString(drawing).childNodes[0].nodeName == "svg"  # noqa: S318 - our own
    assert unquote(escaped(drawing)) == drawing
    url = background_of("soft", picture).partition("url(")[2].partition(")")[0]
    assert url.startswith("data:image/webp;base64,") and len(url) <= MOST_SOFT
    assert not set(background_of("outline", picture)) & set("\"'<>\n")
    assert max(soft(picture, 24).shape[:2]) <= 24


def test_the_outline_follows_the_edge() -> None:
    drawing = outline(light(0, 0, 0, height=60, width=90))
    for line in re.findall(r"M([^M']+)", drawing):
        (x, _), *steps = (tuple(map(int, pair)) for pair in re.findall(r"(-?\d+),?(-?\d+)", line))
        assert abs(x - 90) <= 12  # the middle of 90 px, in half px; Lanczos rings two px beside it
        assert all(abs(right) <= 1 for right, _ in steps) and abs(sum(down for _, down in steps)) > 100


def test_primaries_of_the_standards() -> None:
    # IEC 61966-2-1, section 5.3, to the four figures it gives; white of both spaces is the same.
    assert np.allclose(
        xyz_of_primaries(SRGB),
        [[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]],
        atol=1e-4,
    )
    assert np.allclose(WIDE_FROM_SRGB @ np.ones(3), 1) and np.allclose(SRGB_FROM_WIDE @ WIDE_FROM_SRGB, np.eye(3))
    assert np.allclose(xyz_of_primaries(DISPLAY_P3)[1].sum(), 1)
