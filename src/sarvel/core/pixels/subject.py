"""The subject of a picture, guessed from its pixels: a box, its confidence, and alternatives."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from scipy import ndimage

from sarvel.core.crop.place import WHOLE, Box, kept
from sarvel.core.facts import FoundSubject
from sarvel.core.pixels.closed_shapes import ClosedShape, Mask
from sarvel.core.pixels.resample import Pixels
from sarvel.core.pixels.small import Field, scaled
from sarvel.core.pixels.standing_out import BIAS, WEIGHTS, Cues, cues_of

# By trying, on the labelled photographs of bench/: how fast unlikely places cease to count, how much a place counts that is
# foreseen, and how crisp a shape is that is taken in the place of a box which overlaps with the subject too.
_LIKELIER, _FORESEEN = 2, 0.4
_SPOT = 1.5  # px of standard deviation
_CRISP = 9.0

# A further guess lies elsewhere, or around the first: it stands out at least so much of what the first does, covers so much of
# the picture, and is no strip.
_GUESSES, _WORTH_SHOWING, _LEAST, _NO_STRIP = 3, 0.3, 0.01, 4.0
_APART = 0.15  # of its width and height: what lies so near to a guess belongs to it
_OTHER = 0.6  # boxes that overlap less, as intersection over union, are two guesses

# How sure a guess is, by how much likelier its inside is than its outside: slope and middle of a logistic curve, fitted
# by bench/fit_subjects.py to the share of crops of 1:1, 4:5, 21:9 and 9:16 that keep 95 % of the most that they could keep.
SURE = (5.9, 0.34)
_RIVALS = 8  # of two equally salient places either may be it; one with three quarters of the salience hardly counts


def find_subject(pixels: Pixels) -> FoundSubject:
    """The subject of a picture; where it is transparent, nothing stands out.

    Args:
        pixels: (height, width, 3), or 4 with straight alpha.
    """
    cues = cues_of(pixels)
    if cues is None:
        return FoundSubject(WHOLE, 0.0)
    likely = cues.likely(WEIGHTS, BIAS)
    (best, *others), rival = guesses(cues, likely)
    slope, middle = SURE
    sure = 1 / (1 + math.exp(-slope * (set_apart(likely, best) - middle)) + rival**_RIVALS)
    return FoundSubject(best, sure, tuple(others))


class Guesses(NamedTuple):
    """The guesses of a picture's subject.

    Attributes:
        boxes: one to three, in fractions, the most likely first.
        rival: how much the next one elsewhere stands out, as a share of the first, 0 to 1.
    """

    boxes: list[Box]
    rival: float


def guesses(cues: Cues, likely: Field) -> Guesses:
    """The boxes that may be the subject.

    Args:
        likely: how likely each place belongs to the subject, 0 to 1.
    """
    spots = scaled(ndimage.gaussian_filter(cues.unforeseen, _SPOT)) + _FORESEEN
    gain = likely**_LIKELIER * spots
    if not gain.any():
        return Guesses([WHOLE], 0.0)
    most, first = _best_box(gain, cues.shapes)
    boxes = [first]
    rival = 0.0
    while len(boxes) < _GUESSES:
        gain = gain * ~within(_grown(boxes[-1]), gain.shape)
        if not gain.any():
            break
        value, box = _best_box(gain, cues.shapes)
        if value < _WORTH_SHOWING * most or not _worth_showing(box, gain.shape):
            break
        boxes.append(box)
        rival = rival or min(1.0, value / most)
    around = _best_box(likely * spots, cues.shapes)[1]
    common = kept(around, first) * first.width * first.height
    if common < _OTHER * (around.width * around.height + first.width * first.height - common):
        boxes.append(around)
    return Guesses(boxes[:_GUESSES], rival)


def _grown(box: Box) -> Box:
    across, down = _APART * box.width, _APART * box.height
    return Box(
        max(0.0, box.left - across), max(0.0, box.top - down), min(1.0, box.right + across), min(1.0, box.bottom + down)
    )


def _worth_showing(box: Box, size: tuple[int, int]) -> bool:
    ratio = box.width * size[1] / (box.height * size[0])
    return box.width * box.height >= _LEAST and 1 / _NO_STRIP <= ratio <= _NO_STRIP


def set_apart(likely: Field, box: Box) -> float:
    """How much more likely, on average, places within a box belong to the subject than places outside: -1 to 1."""
    inside = within(box, likely.shape)
    return float(likely[inside].mean() - (likely[~inside].mean() if not inside.all() else 0.0))


def _best_box(gain: Field, shapes: Sequence[ClosedShape]) -> tuple[float, Box]:
    """The box that overlaps most with what gains, and how much; that of a crisp shape instead, if it does so too."""
    rows, columns = gain.shape
    sums = np.pad(gain.cumsum(axis=0).cumsum(axis=1), ((1, 0), (1, 0)))
    best, (top, left, bottom, right) = _most_overlap(sums)
    worth = _CRISP
    for shape in shapes:
        edges = shape.rows.start, shape.columns.start, shape.rows.stop, shape.columns.stop
        if (own := shape.crisp * _overlap(sums, *edges) / best) > worth:
            worth, (top, left, bottom, right) = own, edges
    return best, Box(left / columns, top / rows, right / columns, bottom / rows)


def _most_overlap(sums: Field) -> tuple[float, tuple[int, int, int, int]]:
    """Of all boxes that which overlaps most with what gains: how much, and its top, left, bottom and right.

    Args:
        sums: of what gains, above and to the left of each corner: (rows + 1, columns + 1).
    """
    rows, columns = sums.shape[0] - 1, sums.shape[1] - 1
    left, right = np.triu_indices(columns + 1, 1)
    upto = (sums[:, right] - sums[:, left]).astype(np.float32)
    areas = (np.arange(1, rows + 1)[:, None] * (right - left) + _all(sums)).astype(np.float32)
    best, edges = -math.inf, (0, 0, rows, columns)
    for top in range(rows):
        overlaps = upto[top + 1 :] - upto[top]
        overlaps /= areas[: rows - top]
        lower, at = divmod(int(overlaps.argmax()), len(left))
        if overlaps[lower, at] > best:
            best, edges = float(overlaps[lower, at]), (top, int(left[at]), top + 1 + lower, int(right[at]))
    return best, edges


def _overlap(sums: Field, top: int, left: int, bottom: int, right: int) -> float:
    """What gains within a box, as a share of the box and all that gains."""
    gained = sums[bottom, right] - sums[top, right] - sums[bottom, left] + sums[top, left]
    return float(gained / ((bottom - top) * (right - left) + _all(sums)))


def _all(sums: Field) -> float:
    """All that gains, as a number of places."""
    return float(sums[-1, -1] / (1 + _FORESEEN))


def within(box: Box, size: tuple[int, int]) -> Mask:
    """The places of so many rows and columns that lie within a box of fractions: at least one."""
    rows, columns = size
    top, left = min(rows - 1, round(box.top * rows)), min(columns - 1, round(box.left * columns))
    inside = np.zeros(size, bool)
    inside[top : max(top + 1, round(box.bottom * rows)), left : max(left + 1, round(box.right * columns))] = True
    return inside
