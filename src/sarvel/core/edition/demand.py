"""Demand: who meets each crop of a slot, and the px that they need. Worked out once for all masters."""

from __future__ import annotations

import bisect
import functools
import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from sarvel.core.css.device import Device, Scheme
from sarvel.core.css.viewports import EVERY, Viewports
from sarvel.core.layout.audience import STEP, Visits, spread_of
from sarvel.core.layout.ladder import Chooser, Ladder, Terms, by_hand, demand, ladder
from sarvel.core.layout.unlisted import FINE, NARROWEST, SHARE, WIDEST, viewports_of
from sarvel.core.model import CropRule, Slot

_HEIGHT = re.compile(r"v(?:h|min|max)\b|height|orientation|aspect-ratio")
_LAPTOP = Device(1440, 900, 1)  # docs/inside.md, "Markup": src is sharp on a 1x laptop
_LEAST = 0.001  # of visits: the share that a crop counts for which no one is known to meet
_SCHEME = "prefers-color-scheme"
_DENSITY = re.compile(r"resolution|device-pixel-ratio")


@dataclass(frozen=True)
class CropDemand:
    """One crop of a slot, and who meets it.

    Attributes:
        viewports: the widths on which some device meets it.
        visits: the devices of the audience that meet it, ranges spread out; if none does, some that no one listed.
        needs: px that each of them needs across, at most the slot's widest.
        unlisted: devices of the even spread that meet it.
        others: px that each of those needs across, at most the slot's widest.
        constant: its shown width in CSS px where that is the same on every device, else None.
        greatest: the device with the greatest need, and its px, not limited by the slot's widest.
        share: the share of all visits that meet it, > 0.
        shares: the share of all who meet it, by the px that they need; sums up to 1.
        fetching: the same, by the px that their browsers look for: on screens denser than the slot is made for, more.
    """

    slot: Slot
    rule: CropRule
    viewports: Viewports
    visits: tuple[Visits, ...]
    needs: tuple[int, ...]
    unlisted: tuple[Device, ...]
    others: tuple[int, ...]
    constant: float | None
    greatest: tuple[Device, int]
    share: float
    shares: dict[int, float] = field(init=False, repr=False, compare=False)
    fetching: dict[int, float] = field(init=False, repr=False, compare=False)
    _ladders: dict[tuple[int, Terms], Ladder] = field(default_factory=dict, repr=False, compare=False)
    _among: dict[tuple[tuple[int, ...], Terms], Ladder] = field(default_factory=dict, repr=False, compare=False)
    _wanted: dict[tuple[tuple[int, int], Terms], int | None] = field(default_factory=dict, repr=False, compare=False)
    _said: dict[int, tuple[float | None, str]] = field(default_factory=dict, repr=False, compare=False)
    _choosers: dict[Terms, Chooser] = field(default_factory=dict, repr=False, compare=False)
    choices: dict[tuple[int, int, tuple[str, ...], int, bool], Any] = field(
        default_factory=dict, repr=False, compare=False
    )

    def __post_init__(self) -> None:
        """Mixes the audience with those whom no one listed: docs/inside.md, "Demand"."""
        looked_for = [demand(self.slot.shown.on(one.device), one.device.dpr, (one.device.dpr,)) for one in self.visits]
        total = sum(one.share for one in self.visits)
        for name, needs in (("shares", self.needs), ("fetching", looked_for)):
            shares: dict[int, float] = {}
            for one, need in zip(self.visits, needs, strict=True):
                shares[need] = shares.get(need, 0.0) + (1 - SHARE) * one.share / total
            for need in self.others:
                shares[need] = shares.get(need, 0.0) + SHARE / len(self.others)
            object.__setattr__(self, name, shares)

    @functools.cached_property
    def shown(self) -> float:
        """The greatest shown width on `visits`, CSS px."""
        return max(self.slot.shown.on(one.device) for one in self.visits)

    @functools.cached_property
    def shown_on_laptop(self) -> float:
        """The shown width on a 1x laptop, or on as wide a viewport as meets the crop, CSS px."""
        devices = (_LAPTOP, *(one.device for one in self.visits))
        meeting = [
            device
            for device in devices
            if next(rule for rule in self.slot.crops if rule.media.matches(device)).name == self.rule.name
        ]
        widest = max(meeting or [self.visits[0].device], key=lambda device: device.width)
        return self.slot.shown.on(min(widest, _LAPTOP, key=lambda device: device.width))

    @functools.cached_property
    def bounds(self) -> tuple[int, int]:
        """The px that the widest rung has at least and at most, on a master that is large enough."""
        # Where heights or densities are asked for, they are tried as far apart as softness is allowed: nothing is left to spare.
        tries = _hangs_on(_HEIGHT, self.slot) or _hangs_on(_DENSITY, self.slot)
        soft = 0.0 if tries else self.slot.soft
        most = max(_needed(self.slot, device) for device in self.unlisted)
        spared = min(math.ceil(most * (1 - soft) - 1e-6), self.slot.widest)
        return max(spared, *self.needs), max(*self.others, *self.needs)

    def ladder(self, own_width: int, terms: Terms) -> Ladder:
        """The ladder of the crop on a master that gives it `own_width` px: by hand, or the best for who meets it."""
        own_width = self.limited(own_width)
        if (own_width, terms) not in self._ladders:
            if self.slot.widths:
                widths = by_hand(self.slot.widths, min(own_width, self.slot.widest))
            else:
                widths = self._chooser(terms).widths(*self._limits(own_width))
            self._ladders[own_width, terms] = ladder(self.shares, widths, terms.growth)
        return self._ladders[own_width, terms]

    def ladder_among(self, widths: tuple[int, ...], terms: Terms) -> Ladder:
        """The best ladder of some given widths, px, ascending, the widest among them."""
        if (widths, terms) not in self._among:
            shares = self.fetched_among(widths)
            met = {width: share for width, share in shares.items() if share}
            chosen = widths if self.slot.widths else Chooser(met, terms).widths(widths[-1], widths[-1])
            self._among[widths, terms] = ladder(self.fetching, chosen, terms.growth)
        return self._among[widths, terms]

    def fetched_among(self, widths: Sequence[int]) -> dict[int, float]:
        """The share of all who meet the crop that fetch each of some widths, px, ascending; 0 for none."""
        shares = dict.fromkeys(widths, 0.0)
        for need, share in self.fetching.items():
            shares[widths[min(bisect.bisect_left(widths, need), len(widths) - 1)]] += share
        return shares

    def limited(self, own_width: int) -> int:
        """The px across that count of a master that gives the crop so many: more change nothing."""
        return min(own_width, max(self.bounds[1], *(self.slot.widths or (1,))))

    def rungs_wanted(self, own_width: int, terms: Terms) -> int | None:
        """The fewest rungs that would keep everyone from a waste; None if none would."""
        limits = self._limits(own_width)
        if (limits, terms) not in self._wanted:
            self._wanted[limits, terms] = self._chooser(terms).rungs_wanted(*limits)
        return self._wanted[limits, terms]

    def example(self, need: int) -> Device:
        """A device that needs so many px, which is among the needs."""
        known = zip((*self.others, *self.needs), (*self.unlisted, *(one.device for one in self.visits)), strict=True)
        return next(device for px, device in known if px == need)

    def said(self, most: int) -> tuple[float | None, str]:
        """The shown width of an image of so many px across: a constant one, CSS px, else None; and the `sizes` value, else "".

        An image with width descriptors is by nature as wide as `sizes` says: more than the file has would stretch it where a
        stylesheet only limits its width. No browser selects another file by that.
        """
        if most not in self._said:
            shown = self.slot.shown.at_most(most, self.viewports)
            constant = shown.constant(self.viewports)
            lazy = self.slot.auto_sizes and self.slot.loading == "lazy"
            self._said[most] = constant, "" if constant is not None else shown.sizes(self.viewports, lazy=lazy)
        return self._said[most]

    def _limits(self, own_width: int) -> tuple[int, int]:
        low, top = self.bounds
        return min(low, own_width), min(top, own_width)

    def _chooser(self, terms: Terms) -> Chooser:
        if terms not in self._choosers:
            self._choosers[terms] = Chooser(self.shares, terms)
        return self._choosers[terms]


def demands_of(slot: Slot, audience: Iterable[Visits]) -> tuple[CropDemand, ...]:
    """The crops of a slot, in the order tried, each with the devices that no earlier one is for."""
    listed = _in_schemes(slot, spread_of(audience))
    met = _by_crop(slot, [one.device for one in listed])
    unlisted = _unlisted(slot)
    met_unlisted = _by_crop(slot, unlisted)
    everybody = sum(one.share for one in listed)
    crops: list[CropDemand] = []
    left = EVERY
    for i, rule in enumerate(slot.crops):
        viewports = left & rule.media.test.can_hold
        others = [unlisted[at] for at in met_unlisted[i]] or _invented(slot, viewports, unlisted)
        others += _most_needing(slot, i, others)
        visits = [listed[at] for at in met[i]]
        of_listed, of_unlisted = sum(one.share for one in visits) / everybody, len(met_unlisted[i]) / len(unlisted)
        share = max(_LEAST, (1 - SHARE) * of_listed + SHARE * of_unlisted)
        crops.append(_demand(slot, rule, viewports, visits, others, share))
        left &= rule.media.test.can_fail
    return tuple(crops)


def need_of(slot: Slot, device: Device) -> int:
    """The px across that a device needs of a slot's image, at most the slot's widest."""
    return min(_needed(slot, device), slot.widest)


def _needed(slot: Slot, device: Device) -> int:
    return demand(slot.shown.on(device), device.dpr, slot.densities)


def _demand(
    slot: Slot, rule: CropRule, viewports: Viewports, visits: Sequence[Visits], others: Sequence[Device], share: float
) -> CropDemand:
    visits = visits or [Visits(device, 1 / len(others), "not in the audience") for device in others]
    devices = (*others, *(one.device for one in visits))
    return CropDemand(
        slot,
        rule,
        viewports,
        tuple(visits),
        tuple(need_of(slot, one.device) for one in visits),
        tuple(others),
        tuple(need_of(slot, one) for one in others),
        slot.shown.constant(viewports),
        max(((one, _needed(slot, one)) for one in devices), key=lambda one: one[1]),
        share,
    )


def _in_schemes(slot: Slot, visits: Iterable[Visits]) -> list[Visits]:
    """Visits, half of them with a dark color scheme where a crop depends on that: no statistics of ours tell how many."""
    if not any(_SCHEME in rule.media.css for rule in slot.crops):
        return list(visits)
    return [
        replace(one, device=replace(one.device, color_scheme=scheme), share=one.share / 2)
        for one in visits
        for scheme in ("light", "dark")
    ]


def _by_crop(slot: Slot, devices: Sequence[Device]) -> list[list[int]]:
    """The places of the devices that meet each crop of a slot."""
    met: list[list[int]] = []
    left: Iterable[int] = range(len(devices))
    for rule in slot.crops:
        holds: list[int] = []
        fails: list[int] = []
        for at in left:
            (holds if rule.media.matches(devices[at]) else fails).append(at)
        met.append(holds)
        left = fails
    return met


def _unlisted(slot: Slot) -> list[Device]:
    """The devices of the even spread: widths, with several heights and densities where the slot depends on them."""
    media = (*(rule.media for rule in slot.crops), *(step.media for step in slot.shown.steps))
    tests = [one.test for one in media]
    viewports = viewports_of(
        (ranges for test in tests for ranges in (test.can_hold, test.can_fail)), tall=_hangs_on(_HEIGHT, slot)
    )
    densities = sorted(set(slot.densities))
    if _hangs_on(_DENSITY, slot):
        count = math.ceil(math.log(densities[-1] / min(1.0, densities[0]), FINE))
        densities = sorted({*densities, *(densities[-1] / FINE**i for i in range(1, count))})
    schemes: Sequence[Scheme] = ("light", "dark") if any(_SCHEME in one.css for one in media) else ("light",)
    return [
        Device(*viewport, density, color_scheme=scheme)
        for viewport in viewports
        for density in densities
        for scheme in schemes
    ]


def _hangs_on(words: re.Pattern[str], slot: Slot) -> bool:
    """Tells whether a condition or a length of a slot says one of some words."""
    said = (
        *(rule.media.css for rule in slot.crops),
        *(f"{one.media.css} {one.length.css}" for one in slot.shown.steps),
    )
    return any(map(words.search, said))


def _invented(slot: Slot, viewports: Viewports, unlisted: Sequence[Device]) -> list[Device]:
    """Devices for a crop whose condition asks for more than viewports and densities: all on whose widths it can hold."""
    within = [device for device in unlisted if device.width in viewports]
    least = viewports.least if math.isfinite(viewports.least) else 0.0
    return within or [Device(max(320.0, least), 800, max(slot.densities))]


def _most_needing(slot: Slot, crop: int, devices: Sequence[Device]) -> list[Device]:
    """A device next to the one that needs most, if it needs even more: lengths may bend between viewports that are tried."""
    most = max(devices, key=lambda one: _needed(slot, one))
    beside = [
        replace(most, width=most.width + shift)
        for shift in range(1 - STEP, STEP)
        if NARROWEST <= most.width + shift <= WIDEST
    ]
    met = [beside[at] for at in _by_crop(slot, beside)[crop]]
    more = [device for device in met if _needed(slot, device) > _needed(slot, most)]
    return [max(more, key=lambda one: _needed(slot, one))] if more else []
