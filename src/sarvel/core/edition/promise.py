"""The promise of a crop: what everyone gets of it, listed or not, in the worst case."""

from __future__ import annotations

import bisect
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Literal, TypeAlias

from sarvel.core.css.device import Device
from sarvel.core.edition.compose import Crop, Picture
from sarvel.core.layout.ladder import WASTE
from sarvel.core.model import ONE_FILE, ONLY_CROP
from sarvel.notices import Kind, Notice

End: TypeAlias = Literal["", "master", "widest", "widths"]
"""What ends a ladder before everyone has enough: the master's px, or the slot's key of that name; "" if nothing does."""

_ROUNDING = 1e-6


@dataclass(frozen=True)
class Promise:
    """The promise of a crop.

    Attributes:
        soft: the share of the px across that someone lacks, in the worst case; 0 to 1.
        end: what ends the ladder, if that is more than the slot allows.
        waste: how many times the px across someone gets that are needed, in the worst case; >= 1.
        rungs: the fewest with which no one would get more than WASTE; None if no one does, or no number helps.
    """

    soft: float
    softest: Device
    end: End
    waste: float
    wasteful: Device
    rungs: int | None


def promise_of(crop: Crop) -> Promise:
    """Works out the promise of a crop."""
    met, fitness = crop.met, crop.ladder.fitness
    softest, most = met.greatest
    soft = max(0.0, 1 - crop.ladder.widths[-1] / most)
    end = _end(crop) if soft > met.slot.soft + _ROUNDING else ""
    wasteful = met.example(fitness.wasteful) if fitness.waste > 1 else softest
    is_waste = fitness.waste > WASTE and not met.slot.widths
    rungs = met.rungs_wanted(int(crop.box.width + _ROUNDING), crop.terms) if is_waste else None
    return Promise(soft, softest, end, fitness.waste, wasteful, rungs)


def _end(crop: Crop) -> End:
    widest = crop.ladder.widths[-1]
    if widest >= int(crop.box.width + _ROUNDING):
        return "master"
    return "widest" if widest >= crop.met.slot.widest else "widths"


def shortfalls(pictures: Iterable[Picture]) -> list[Notice]:
    """Notes of promises that a plan could better, each once for all masters, with the greatest share of visits."""
    found: dict[tuple[str, str], Notice] = {}
    for picture in pictures:
        if picture.slot.use in ONE_FILE:
            continue  # no number of widths changes what such a place names
        everybody = sum(one.share for crop in picture.crops for one in crop.visits)
        for one in (told for crop in picture.crops for told in _shortfalls(crop, everybody)):
            known = found.setdefault((one.place, one.text), one)
            if (one.share or 0.0) > (known.share or 0.0):
                found[one.place, one.text] = one
    return list(found.values())


def _shortfalls(crop: Crop, everybody: float) -> Iterator[Notice]:
    promise, slot, widths = promise_of(crop), crop.met.slot, crop.ladder.widths
    visits = list(zip(crop.visits, crop.met.needs, strict=True))
    where = f"slots.{slot.name}: crop {crop.rule.name or ONLY_CROP}"
    if promise.end == "widths":
        text = f"its widths end where {promise.softest} is soft by {promise.soft:.0%}"
        soft = sum(one.share for one, need in visits if widths[-1] < need * (1 - slot.soft) - _ROUNDING)
        yield Notice(Kind.PROMISE, where, text, "add a wider one", "note", soft / everybody)
    if promise.waste > WASTE and not slot.widths:
        kept = f"{promise.rungs} widths would keep every device below {WASTE:g} times"
        advice = kept if promise.rungs else "no number of widths changes that"
        text = f"{promise.wasteful} gets {promise.waste:.1f} times the pixels across that it needs"
        fits = [(one, widths[min(bisect.bisect_left(widths, need), len(widths) - 1)] / need) for one, need in visits]
        wasteful = sum(one.share for one, fit in fits if fit > WASTE)
        yield Notice(Kind.PROMISE, where, text, advice, "note", wasteful / everybody)
