"""Estimates of what a file would weigh if each device fetched it at the size that it needs, in a modern format."""

from __future__ import annotations

import math
import statistics
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from sarvel.core.layout.growth import GROWTH
from sarvel.core.survey.uses import Use

_GROWTHS = (1.2, 2.0)  # an image of noise grows by 2; nothing that people look at grows by less than 1.2


@dataclass(frozen=True)
class Sample:
    """A file's picture encoded small.

    Attributes:
        width: px across.
        weight: bytes there.
        growth: bytes grow with the width to the power of this.
    """

    width: int
    weight: float
    growth: float = GROWTH

    def at(self, width: float) -> float:
        """Bytes at another width, px, by extrapolation."""
        return float(self.weight * (width / self.width) ** self.growth)


def sample_of(encoded: Sequence[tuple[int, int]]) -> Sample:
    """From widths in px and bytes of one or two encodes of a picture, the wider last."""
    width, weight = encoded[-1]
    if len(encoded) == 1 or encoded[0][0] == width:
        return Sample(width, weight)
    growth = math.log(weight / encoded[0][1]) / math.log(width / encoded[0][0])
    return Sample(width, weight, min(max(growth, _GROWTHS[0]), _GROWTHS[1]))


def typical(samples: Iterable[tuple[Sample, float]], width: int, height: int) -> Sample:
    """The likely weight of a picture that was not encoded, by the median bytes for each pixel of others.

    Args:
        samples: of others of its kind, each with its ratio of height to width; at least one.
        width: its own, px.
        height: its own, px.
    """
    per_pixel = [one.at(1000) / (1000 * 1000 * ratio) for one, ratio in samples]
    return Sample(1000, statistics.median(per_pixel) * 1000 * 1000 * height / width)


@dataclass(frozen=True)
class WeightEstimate:
    """A file in all its uses.

    Attributes:
        widest: px across that the most demanding device needs; None if no device fetches it.
        too_many: how many times the pixels that its device needs; None too.
        fitting: bytes that an average visit would fetch; None if unknown.
        saves: bytes that an average visit to a page with it would save; 0 if unknown.
    """

    widest: float | None
    too_many: float | None
    fitting: float | None
    saves: float


UNKNOWN = WeightEstimate(None, None, None, 0.0)
"""A file without an estimate."""


def weighed(width: int, weight: int, uses: Sequence[Use], sample: Sample | None) -> WeightEstimate:
    """Weighs a file.

    Args:
        width: its own, px across; 0 if it has none, as drawings in vectors.
        weight: its bytes.
        sample: its picture encoded small; None if that cannot be done.
    """
    needs = [need for use in uses for need in use.needs]
    if not needs or not width:
        return UNKNOWN
    widest = max(need.width for need in needs)
    too_many = (width / widest) ** 2
    if sample is None:
        return WeightEstimate(widest, too_many, None, 0.0)
    share = sum(need.share for need in needs)
    fitting = sum(need.share * min(weight, sample.at(min(need.width, width))) for need in needs) / share
    return WeightEstimate(widest, too_many, fitting, (weight - fitting) * _fetched(uses))


def _fetched(uses: Iterable[Use]) -> float:
    """The share of visits that fetch it, of the use where that is largest."""
    return max(sum(need.share for need in use.needs) for use in uses)
