"""Where cuts lie: properties that hold for any master, ratio and subject, and a slow search that agrees."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sarvel.core.crop.place import Box, kept, place

SIDES = st.integers(1, 20000)
RATIOS = st.floats(1 / 20, 20)
FRACTIONS = st.floats(0, 1)


@st.composite
def subjects(draw: st.DrawFn) -> Box:
    left, top = draw(st.floats(0, 0.98)), draw(st.floats(0, 0.98))
    return Box(left, top, draw(st.floats(left + 0.01, 1)), draw(st.floats(top + 0.01, 1)))


@given(SIDES, SIDES, RATIOS, subjects())
def test_inside_with_the_ratio_and_as_large_as_can_be(width: int, height: int, ratio: float, subject: Box) -> None:
    cut = place(width, height, ratio, subject)
    assert cut.left >= 0 and cut.top >= 0
    assert cut.right <= width * (1 + 1e-12) and cut.bottom <= height * (1 + 1e-12)
    assert cut.width / cut.height == pytest.approx(ratio, rel=1e-9)
    assert cut.width == pytest.approx(width) or cut.height == pytest.approx(height)


@given(SIDES, SIDES, RATIOS, subjects())
def test_a_subject_that_fits_is_wholly_kept(width: int, height: int, ratio: float, subject: Box) -> None:
    cut, wanted = place(width, height, ratio, subject), subject.times(width, height)
    share = min(1, cut.width / wanted.width) * min(1, cut.height / wanted.height)
    assert kept(cut, wanted) == pytest.approx(share, abs=1e-6)


@given(SIDES, SIDES, RATIOS, subjects())
def test_mirrored_masters_have_mirrored_cuts(width: int, height: int, ratio: float, subject: Box) -> None:
    cut = place(width, height, ratio, subject)
    other = place(width, height, ratio, Box(1 - subject.right, subject.top, 1 - subject.left, subject.bottom))
    assert other.left == pytest.approx(width - cut.right, abs=1e-6 * width)
    assert other.top == cut.top


@settings(max_examples=40)
@given(st.integers(100, 5000), st.integers(100, 5000), RATIOS, subjects())
def test_a_search_over_all_positions_finds_no_better(width: int, height: int, ratio: float, subject: Box) -> None:
    """Keeping the subject comes first, the nearness of the centres second: the design's rule, by trying positions."""
    cut, wanted = place(width, height, ratio, subject), subject.times(width, height)
    lefts = np.linspace(0, width - cut.width, 4001)
    shares = np.minimum(lefts + cut.width, wanted.right) - np.maximum(lefts, wanted.left)
    off = np.abs(lefts + cut.width / 2 - (wanted.left + wanted.right) / 2)
    best = lefts[np.lexsort((off, np.round(-shares, 6)))[0]]
    step = max(lefts[1] - lefts[0], 1e-6)
    assert off[np.searchsorted(lefts, cut.left).clip(0, 4000)] <= off[lefts == best][0] + step


def test_whole_subject_is_centred() -> None:
    assert place(400, 300, 1) == Box(50, 0, 350, 300)


def test_kept_is_the_share_of_the_area() -> None:
    assert kept(Box(0, 0, 10, 10), Box(5, 5, 15, 15)) == 0.25
    assert kept(Box(0, 0, 10, 10), Box(20, 20, 30, 30)) == 0
