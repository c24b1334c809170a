"""Where crops lie: properties that hold for any master, ratio, subject, zoom and lean, and a slow search that agrees."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.crop.place import CENTRE, Box, kept, padded, place
from sarvel.core.crop.turn import Turn, turned, turned_size

SIDES = st.integers(1, 20000)
RATIOS = st.floats(1 / 20, 20)
ZOOMS = st.floats(1, 20)
LEANS = st.tuples(st.floats(0, 1), st.floats(0, 1))


# Multiples of a small power of two, so that mirroring rounds nothing away.
FRACTIONS = st.integers(0, 2**20).map(lambda part: part / 2**20)


@st.composite
def boxes(draw: st.DrawFn) -> Box:
    left, top = (draw(FRACTIONS) * 0.5 for _ in range(2))
    return Box(
        left, top, left + (1 - left) * max(draw(FRACTIONS), 0.125), top + (1 - top) * max(draw(FRACTIONS), 0.125)
    )


POINTS = st.tuples(FRACTIONS, FRACTIONS).map(lambda at: Box(at[0], at[1], at[0], at[1]))
SUBJECTS = st.lists(boxes() | POINTS, min_size=1, max_size=3)


@given(SIDES, SIDES, RATIOS, SUBJECTS, ZOOMS, LEANS)
def test_inside_with_the_ratio(
    width: int, height: int, ratio: float, subjects: list[Box], zoom: float, lean: tuple[float, float]
) -> None:
    crop = place(width, height, ratio, subjects, zoom=zoom, lean=lean)
    assert crop.left >= 0 and crop.top >= 0
    assert crop.right <= width * (1 + 1e-12) and crop.bottom <= height * (1 + 1e-12)
    assert crop.width / crop.height == pytest.approx(ratio, rel=1e-6)
    largest = min(width, height * ratio)
    assert largest / zoom * (1 - 1e-9) <= crop.width <= largest * (1 + 1e-9)


@given(SIDES, SIDES, RATIOS, SUBJECTS, ZOOMS, LEANS)
def test_what_fits_is_wholly_kept(
    width: int, height: int, ratio: float, subjects: list[Box], zoom: float, lean: tuple[float, float]
) -> None:
    """All subjects if they fit at zoom 1, else the first; and of one that does not fit, as much as can be."""
    crop = place(width, height, ratio, subjects, zoom=zoom, lean=lean)
    wide, high = min(width, height * ratio), min(height, width / ratio)
    spread = (
        max(s.right for s in subjects) - min(s.left for s in subjects),
        max(s.bottom for s in subjects) - min(s.top for s in subjects),
    )
    if spread[0] * width <= wide * (1 - 1e-6) and spread[1] * height <= high * (1 - 1e-6):
        grown = Box(
            crop.left - 1e-6 * width, crop.top - 1e-6 * height, crop.right + 1e-6 * width, crop.bottom + 1e-6 * height
        )
        assert all(kept(grown, subject.times(width, height)) == pytest.approx(1) for subject in subjects)
    first = subjects[0].times(width, height)
    if first.width and first.height:
        share = min(1, wide / first.width) * min(1, high / first.height)
        assert kept(crop, first) == pytest.approx(share, abs=1e-6)


@given(SIDES, SIDES, RATIOS, SUBJECTS, ZOOMS, LEANS)
def test_mirrored_masters_have_mirrored_crops(
    width: int, height: int, ratio: float, subjects: list[Box], zoom: float, lean: tuple[float, float]
) -> None:
    crop = place(width, height, ratio, subjects, zoom=zoom, lean=lean)
    mirrored = [turned(subject, "", mirror=True) for subject in subjects]
    other = place(width, height, ratio, mirrored, zoom=zoom, lean=(1 - lean[0], lean[1]))
    assert other.left == pytest.approx(width - crop.right, abs=1e-6 * width)
    assert other.top == pytest.approx(crop.top, abs=1e-6 * height)


def searched(whole: float, part: float, stretch: tuple[float, float], lean: float) -> float:
    """Where a part begins that keeps as much of a stretch as can be, and of such places the one nearest to its wish.

    By trying 401 places, then 401 around the best of them, and so on.
    """
    low, high = 0.0, whole - part
    for _ in range(9):
        places = np.linspace(low, high, 401)
        shows = np.minimum(places + part, stretch[1]) - np.maximum(places, stretch[0])
        off = np.abs(places + lean * part - sum(stretch) / 2)
        best = places[np.lexsort((off, -np.round(shows / whole, 11)))[0]]
        step = (high - low) / 400
        low, high = max(0.0, best - step), min(whole - part, best + step)
    return float(best)


def test_a_search_over_all_positions_agrees_on_2000_random_crops() -> None:
    random = np.random.default_rng(12)
    for _ in range(2000):
        width, height = random.integers(200, 6000, 2)
        ratio, zoom, lean = (
            float(np.exp(random.uniform(-1.5, 1.5))),
            float(random.uniform(1, 4)),
            tuple(random.uniform(0, 1, 2)),
        )
        left, right = np.sort(random.uniform(0, 1, 2))
        top, bottom = np.sort(random.uniform(0, 1, 2))
        crop = place(width, height, ratio, [Box(left, top, right, bottom)], zoom=zoom, lean=lean)
        across = searched(width, crop.width, (left * width, right * width), lean[0])
        down = searched(height, crop.height, (top * height, bottom * height), lean[1])
        assert (crop.left / width, crop.top / height) == pytest.approx((across / width, down / height), abs=1e-6)


@pytest.mark.parametrize(
    ("arguments", "crop"),
    [
        ((400, 300, 1, [Box(0, 0, 1, 1)]), (50, 0, 350, 300)),
        ((400, 300, 1, [Box(0.9, 0.5, 1, 0.6)]), (100, 0, 400, 300)),
        ((400, 300, 4 / 3, [Box(0.5, 0.5, 0.5, 0.5)], 2), (100, 75, 300, 225)),  # a point, twice as near
        (
            (400, 300, 4 / 3, [Box(0.25, 0.25, 0.75, 0.75)], 9),
            (100, 75, 300, 225),
        ),  # zoom shrinks until the subject fits
        ((400, 300, 1, [Box(0.4, 0.4, 0.5, 0.5)], 3, (0.0, 0.5)), (160, 85, 260, 185)),  # leaning out is moved back in
        ((400, 300, 1, [Box(0, 0, 0.1, 0.1), Box(0.6, 0, 0.7, 0.1)]), (0, 0, 300, 300)),  # both fit
        ((400, 300, 1, [Box(0, 0, 0.1, 0.1), Box(0.9, 0, 1, 0.1)]), (0, 0, 300, 300)),  # they do not: the first counts
        (
            (300, 400, 3, [Box(0, 0.25, 1, 1)]),
            (0, 500 / 3, 300, 800 / 3),
        ),  # of 200 px lost of a tall subject, a third above
        (
            (300, 400, 3, [Box(0, 0.25, 1, 1), Box(0.4, 0.25, 0.6, 0.4)]),
            (0, 100, 300, 200),
        ),  # its inner box, a head, is kept
        ((300, 400, 3, [Box(0, 0.25, 1, 1), Box(0.4, 0.85, 0.6, 1)]), (0, 300, 300, 400)),  # wherever it is
        ((300, 400, 3, [Box(0, 0.25, 1, 1), Box(0.4, 0.3, 0.6, 0.9)]), (0, 500 / 3, 300, 800 / 3)),  # if it fits
        ((300, 400, 3, [Box(0, 0, 1, 1)]), (0, 150, 300, 250)),  # all of a picture is no subject: the middle
        ((300, 400, 3, [Box(0, 0.25, 1, 1)], 1, (0.5, 0.6)), (0, 190, 300, 290)),  # by hand wins
    ],
)
def test_by_hand(arguments: tuple[float, float, float, list[Box]], crop: tuple[float, ...]) -> None:
    zoom, lean = (*arguments[4:5], 1.0)[0], (*arguments[5:6], CENTRE)[0]
    found = place(*arguments[:4], zoom=zoom, lean=lean)
    assert (found.left, found.top, found.right, found.bottom) == pytest.approx(crop)


def test_kept_is_the_share_of_the_area() -> None:
    assert kept(Box(0, 0, 10, 10), Box(5, 5, 15, 15)) == 0.25
    assert kept(Box(0, 0, 10, 10), Box(20, 20, 30, 30)) == 0
    assert kept(Box(0, 0, 10, 10), Box(5, 5, 5, 5)) == 1 and kept(Box(0, 0, 10, 10), Box(5, 15, 5, 15)) == 0


@given(SIDES, SIDES, RATIOS)
def test_padding_holds_all_of_the_master_in_its_middle(width: int, height: int, ratio: float) -> None:
    box = padded(width, height, ratio)
    assert (
        box.width / box.height == pytest.approx(ratio)
        and box.width >= width * (1 - 1e-12)
        and box.height >= height * (1 - 1e-12)
    )
    assert (box.left + box.right, box.top + box.bottom) == pytest.approx((width, height))


@pytest.mark.parametrize("turn", ["", "left", "right", "half"])
@pytest.mark.parametrize("mirror", [False, True])
def test_turned_boxes_lie_where_turned_pixels_do(turn: Turn, mirror: bool) -> None:
    picture = np.zeros((40, 60, 3), np.uint8)
    picture[4:12, 30:54] = 255
    pixels = np.rot90(picture, {"": 0, "left": 1, "half": 2, "right": 3}[turn])[:, :: -1 if mirror else 1]
    assert pixels.shape[:2][::-1] == turned_size(60, 40, turn)
    box = turned(Box(30 / 60, 4 / 40, 54 / 60, 12 / 40), turn, mirror=mirror).times(*turned_size(60, 40, turn))
    rows, columns = np.nonzero(pixels[..., 0])
    assert (box.left, box.top, box.right, box.bottom) == pytest.approx(
        (columns.min(), rows.min(), columns.max() + 1, rows.max() + 1)
    )
