"""Demand: the devices that meet each cut of a slot, and the px that they need. Worked out once for all masters."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field

from sarvel.core.css.device import Device
from sarvel.core.css.viewports import EVERY, Viewports
from sarvel.core.layout.audience import Visits
from sarvel.core.layout.ladder import Ladder, by_hand, demand, ladder, within, worthwhile
from sarvel.core.model import CutRule, Slot


@dataclass(frozen=True)
class CutDemand:
    """One cut of a slot as the audience meets it.

    Attributes:
        slot: the slot.
        rule: the cut.
        viewports: the widths on which some device meets it.
        visits: the devices of the audience that meet it; if none does, an invented one.
        needs: px that each of them needs across, at most the slot's widest.
        constant: its shown width in CSS px where that is the same on every device, else None.
    """

    slot: Slot
    rule: CutRule
    viewports: Viewports
    visits: tuple[Visits, ...]
    needs: tuple[int, ...]
    constant: float | None
    _ladders: dict[int, Ladder] = field(default_factory=dict, repr=False, compare=False)

    def ladder(self, own_width: int) -> Ladder:
        """The ladder of the cut on a master that gives it `own_width` px: by hand, or the best for its devices."""
        if own_width not in self._ladders:
            self._ladders[own_width] = self._worked_out(own_width)
        return self._ladders[own_width]

    def said(self, most: int) -> tuple[float | None, str]:
        """The shown width of an image of so many px across: a constant one, CSS px, else None; and the `sizes` value, else "".

        An image with width descriptors is by nature as wide as `sizes` says: more than the file has would stretch it where a
        stylesheet only limits its width. No browser selects another file by that.
        """
        shown = self.slot.shown.at_most(most, self.viewports)
        constant = shown.constant(self.viewports)
        lazy = self.slot.styled and self.slot.load == "later"
        return constant, "" if constant is not None else shown.sizes(self.viewports, lazy=lazy)

    def _worked_out(self, own_width: int) -> Ladder:
        slot, shares = self.slot, dict[int, float]()
        for one, need in zip(self.visits, self.needs, strict=True):
            shares[min(need, own_width)] = shares.get(min(need, own_width), 0.0) + one.share
        if slot.widths:
            return ladder(shares, by_hand(slot.widths, min(own_width, slot.widest)))
        if slot.excess is not None:
            return ladder(shares, within(shares, slot.excess))
        return ladder(shares, worthwhile(shares, slot.rungs))


def demands_of(slot: Slot, audience: tuple[Visits, ...]) -> tuple[CutDemand, ...]:
    """The cuts of a slot, in the order tried, each with the devices that no earlier one is for."""
    cuts: list[CutDemand] = []
    left, unmet = EVERY, audience
    for rule in slot.cuts:
        holds = [rule.media.matches(visits.device) for visits in unmet]
        met = tuple(itertools.compress(unmet, holds))
        cuts.append(_met(slot, rule, left & rule.media.test.can_hold, met))
        unmet = tuple(visits for visits, meets in zip(unmet, holds, strict=True) if not meets)
        left &= rule.media.test.can_fail
    return tuple(cuts)


def _met(slot: Slot, rule: CutRule, viewports: Viewports, met: tuple[Visits, ...]) -> CutDemand:
    nobody = Visits(Device(max(320.0, viewports.least), 800, max(slot.densities)), 1, "nobody of the audience")
    visits = met or (nobody,)
    return CutDemand(
        slot,
        rule,
        viewports,
        visits,
        tuple(need_of(slot, one.device) for one in visits),
        slot.shown.constant(viewports),
    )


def need_of(slot: Slot, device: Device) -> int:
    """The px across that a device needs of a slot's image, at most the slot's widest."""
    return min(demand(slot.shown.on(device), device.dpr, slot.densities), slot.widest)
