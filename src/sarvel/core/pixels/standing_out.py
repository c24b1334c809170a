"""Salience: for each place of a picture, how likely it belongs to the subject.

Cues that people go by are measured on a small copy, and weighed by a logistic model: closed shapes, colors that are not foreseen,
focus, skin, and a mild preference for the middle.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from sarvel.core.pixels.closed_shapes import ClosedShape, closed_shapes, votes_of
from sarvel.core.pixels.colors import set_off, skin_hereabouts, unforeseen, unlike_edges
from sarvel.core.pixels.detail import Detail
from sarvel.core.pixels.resample import Pixels
from sarvel.core.pixels.small import Field, lab_of, reduced, scaled

SIDE = 64
"""The longer side of the field, px: a subject is recognisable on a thumbnail."""

_SHARP_SIDE = 400  # px of the longer side, where detail is measured: places in focus there are in focus on a page
_FLAT = 1.0  # the spread of L*, a* or b* in a picture in which nothing is seen
_MIDDLE = 1.5  # how fast the weight of the middle falls off: to a fifth halfway along the edges

# Fitted by bench/fit_subjects.py on labelled photographs; the ones that are kept aside took no part.
WEIGHTS = {
    "closed shapes": 1.09,
    "most voted": 1.35,
    "unforeseen": 2.64,
    "in focus": 0.3,
    "skin": 1.05,
    "off middle": -2.03,
}
BIAS = -0.58


@dataclass(frozen=True)
class Cues:
    """The measured cues of a picture. All fields are (rows, columns), the longer side SIDE.

    Attributes:
        visible: how opaque each place is, 0 to 1.
        unforeseen: how little each place is foreseen, 0 to 1.
    """

    fields: dict[str, Field]
    visible: Field
    unforeseen: Field
    shapes: list[ClosedShape]

    def likely(self, weights: Mapping[str, float], bias: float) -> Field:
        """The likelihood, 0 to 1, that each place belongs to the subject."""
        sums = sum((weight * self.fields[name] for name, weight in weights.items()), np.full(self.visible.shape, bias))
        return np.asarray(self.visible / (1 + np.exp(-sums)))


def cues_of(pixels: Pixels) -> Cues | None:
    """The cues of a picture; None if nothing is to be seen.

    Args:
        pixels: (height, width, 3), or 4 with straight alpha; where it is transparent, nothing stands out.
    """
    sharp = reduced(pixels, _SHARP_SIDE)
    small = reduced(sharp, SIDE)
    size = small.shape[:2]
    visible = small[..., 3] / 255 if small.shape[2] == 4 else np.ones(size)
    sharp, small = _evened(sharp), _evened(small)
    lab = lab_of(small)
    if np.ptp(lab, axis=(1, 2)).max() < _FLAT:
        return None
    detail = Detail(lab_of(sharp)[0], size)
    spots = unforeseen(lab)
    shapes = closed_shapes(lab, [set_off(lab), unlike_edges(lab), detail.focus, detail.texture], spots)
    votes = votes_of(shapes, size)
    logarithm = np.log(votes + 0.05)
    y, x = ((np.arange(n) + 0.5) / n - 0.5 for n in size)
    off_middle = 4 * (x**2 + y[:, None] ** 2)
    fields = {
        "closed shapes": logarithm - logarithm.mean(),
        "most voted": scaled(votes),
        "unforeseen": spots * np.exp(-_MIDDLE * off_middle),
        "in focus": detail.sharpness,
        "skin": skin_hereabouts(small),
        "off middle": off_middle,
    }
    return Cues(fields, visible, spots, shapes)


def _evened(pixels: Pixels) -> Pixels:
    """The picture with one color where it is transparent: the average of the visible part."""
    if pixels.shape[2] == 3:
        return pixels
    seen = pixels[..., 3] > 127
    color = pixels[seen][:, :3].mean(axis=0) if seen.any() else np.zeros(3)
    return np.where(seen[..., None], pixels[..., :3], color.astype(np.uint8))
