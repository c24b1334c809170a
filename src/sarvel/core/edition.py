"""The Edition: everything that one plan makes of one set of masters.

`compose` is pure: the same plan and the same facts give the same Edition on any machine. All commands read the Edition;
none works out a width or a crop for itself.
"""

from __future__ import annotations

import hashlib
import re
import unicodedata
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass

from sarvel.core.crop.place import WHOLE, Box, kept, place
from sarvel.core.css.device import Device
from sarvel.core.css.viewports import EVERY, Viewports
from sarvel.core.html.candidates import select
from sarvel.core.layout.audience import Visits
from sarvel.core.layout.ladder import Ladder, by_hand, demand, ladder, within, worthwhile
from sarvel.core.plan import CutRule, Finish, Master, Slot

RECIPE = 1
"""Raised whenever the same crop, size and settings would give other pixels than before, so that names change with them."""

_SUBJECT_KEPT = 0.999  # below this share of the subject a cut is said to lose some of it; a hair is rounding


@dataclass(frozen=True)
class MasterFacts:
    """What compose knows of a master's file.

    Attributes:
        key: its path below the masters folder, with forward slashes.
        width: px across, once turned upright.
        height: px down, once turned upright.
        alpha: whether it can be transparent.
        digest: of the file's bytes, in hexadecimal.
        size: bytes of the file.
    """

    key: str
    width: int
    height: int
    alpha: bool
    digest: str
    size: int


@dataclass(frozen=True)
class FormatFacts:
    """What compose knows of a format.

    Attributes:
        name: as plans call it.
        media_type: as markup calls it.
        ending: of its files, without the dot.
        alpha: whether it can be transparent.
        codec: library and version that write it; other versions may write other bytes.
        settings: the encoder's settings for each finish, as text.
    """

    name: str
    media_type: str
    ending: str
    alpha: bool
    codec: str
    settings: Mapping[Finish, str]


@dataclass(frozen=True)
class Rendition:
    """One file: a cut, at a rung, in a format.

    Attributes:
        name: file name; two renditions that differ in any byte differ in name.
        format: the format's name.
        media_type: the format's media type.
        width: px across.
        height: px down.
        finish: how much detail it keeps.
    """

    name: str
    format: str
    media_type: str
    width: int
    height: int
    finish: Finish


@dataclass(frozen=True)
class Cut:
    """One crop of a master for a slot, placed, with its renditions.

    Attributes:
        rule: what the plan says of it.
        viewports: the widths on which some device meets it.
        visits: the devices of the audience that meet it; where there are none, one that could.
        box: where it lies, px of the upright master.
        constant: its shown width in CSS px where that is the same on every device, else None.
        sizes: the `sizes` value; "" where the shown width is constant.
        ladder: its widths, and what they cost.
        soft: those of `visits` that need more px than the cut has.
        renditions: its files by format, best format first, each narrowest first.
    """

    rule: CutRule
    viewports: Viewports
    visits: tuple[Visits, ...]
    box: Box
    constant: float | None
    sizes: str
    ladder: Ladder
    soft: tuple[Visits, ...]
    renditions: Mapping[str, tuple[Rendition, ...]]


@dataclass(frozen=True)
class Picture:
    """A master in a slot: what one tag of a page becomes.

    Attributes:
        slot: the slot.
        master: the master.
        alt: the plan's words for it, if it has any.
        cuts: in the order that markup tries them; the last has no condition.
        warnings: what the user must mend, a sentence each.
        notes: what the user should know and may leave so.
    """

    slot: Slot
    master: MasterFacts
    alt: str | None
    cuts: tuple[Cut, ...]
    warnings: tuple[str, ...]
    notes: tuple[str, ...]

    def renditions(self) -> Iterator[Rendition]:
        """All its files; two cuts may share one."""
        return (rendition for cut in self.cuts for ladder in cut.renditions.values() for rendition in ladder)

    def cut_on(self, device: Device) -> Cut:
        """The cut that a device meets."""
        return next(cut for cut in self.cuts if cut.rule.media.matches(device))

    def fetched(self, device: Device) -> Rendition:
        """The file that a browser on this device fetches, if it understands the first format."""
        ladder = next(iter(self.cut_on(device).renditions.values()))
        shown = self.slot.shown.on(device) or 1.0  # nothing shown: any candidate is sharp enough
        return ladder[select([rendition.width / shown for rendition in ladder], device.dpr)]


@dataclass(frozen=True)
class Edition:
    """Everything that one plan makes: pictures in the order first asked for, by slot name and master key."""

    pictures: Mapping[tuple[str, str], Picture]


def compose(
    wanted: Iterable[tuple[str, str]],
    slots: Mapping[str, Slot],
    masters: Mapping[str, Master],
    facts: Mapping[str, MasterFacts],
    formats: Mapping[str, FormatFacts],
    audience: tuple[Visits, ...],
) -> Edition:
    """Works out every cut, ladder, file name and `sizes`.

    Args:
        wanted: pairs of slot name and master key, as pages ask for them; each pair once or more.
        slots: the plan's slots, by name.
        masters: what the plan says of masters, by key; not every master need be there.
        facts: masters that can be read, by key. Pairs with any other master are left out.
        formats: the formats that can be written, by name.
        audience: the devices to serve, at least one.
    """
    pictures: dict[tuple[str, str], Picture] = {}
    for slot, key in wanted:
        if (slot, key) not in pictures and key in facts:
            pictures[slot, key] = _picture(slots[slot], facts[key], masters.get(key, Master()), formats, audience)
    return Edition(pictures)


def _picture(
    slot: Slot, facts: MasterFacts, master: Master, formats: Mapping[str, FormatFacts], audience: tuple[Visits, ...]
) -> Picture:
    chosen = [formats[name] for name in _suited(slot.formats, facts, formats)]
    cuts: list[Cut] = []
    left, unmet = EVERY, audience
    for rule in slot.cuts:
        met = tuple(visits for visits in unmet if rule.media.matches(visits.device))
        cuts.append(_cut(slot, rule, facts, master.subject or WHOLE, chosen, left & rule.media.test.can_hold, met))
        unmet = tuple(visits for visits in unmet if visits not in met)
        left &= rule.media.test.can_fail
    warnings = tuple(_lost_subjects(slot, master.subject, facts, cuts))
    return Picture(slot, facts, master.alt, tuple(cuts), warnings, tuple(_too_small(slot, facts, cuts)))


def _suited(names: Iterable[str], facts: MasterFacts, formats: Mapping[str, FormatFacts]) -> tuple[str, ...]:
    """The slot's formats for this master: where it can be transparent, PNG stands in for formats that cannot."""
    if not facts.alpha:
        return tuple(names)
    return tuple(dict.fromkeys(name if formats[name].alpha else "png" for name in names))


def _cut(
    slot: Slot,
    rule: CutRule,
    facts: MasterFacts,
    subject: Box,
    formats: list[FormatFacts],
    viewports: Viewports,
    met: tuple[Visits, ...],
) -> Cut:
    ratio = rule.ratio or facts.width / facts.height
    box = place(facts.width, facts.height, ratio, subject)
    visits = met or (
        Visits(Device(max(320.0, viewports.least), 800, max(slot.densities)), 1, "nobody of the audience"),
    )
    needs = [min(_need(slot, one.device), slot.widest) for one in visits]
    own_width = max(1, int(box.width + 1e-6))
    constant = slot.shown.constant(viewports)
    found = _ladder(slot, visits, needs, own_width)
    return Cut(
        rule=rule,
        viewports=viewports,
        visits=visits,
        box=box,
        constant=constant,
        sizes="" if constant is not None else slot.shown.sizes(viewports, lazy=slot.load == "later"),
        ladder=found,
        soft=tuple(one for one, need in zip(visits, needs, strict=True) if need > own_width),
        renditions={
            format_.name: tuple(_rendition(slot, rule, facts, box, ratio, width, format_) for width in found.widths)
            for format_ in formats
        },
    )


def _need(slot: Slot, device: Device) -> int:
    return demand(slot.shown.on(device), device.dpr, slot.densities)


def _ladder(slot: Slot, visits: Iterable[Visits], needs: Iterable[int], own_width: int) -> Ladder:
    """The cut's widths: by hand, or the best for those who meet it."""
    shares: dict[int, float] = {}
    for one, need in zip(visits, needs, strict=True):
        shares[min(need, own_width)] = shares.get(min(need, own_width), 0.0) + one.share
    if slot.widths:
        return ladder(shares, by_hand(slot.widths, min(own_width, slot.widest)))
    if slot.excess is not None:
        return ladder(shares, within(shares, slot.excess))
    return ladder(shares, worthwhile(shares, slot.rungs))


def _rendition(
    slot: Slot, rule: CutRule, facts: MasterFacts, box: Box, ratio: float, width: int, format_: FormatFacts
) -> Rendition:
    height = max(1, round(width / ratio))
    made_from = "\n".join(
        [
            str(RECIPE),
            facts.digest,
            *(float(edge).hex() for edge in (box.left, box.top, box.right, box.bottom)),
            f"{width} {height}",
            format_.name,
            format_.codec,
            format_.settings[slot.finish],
        ]
    )
    digest = hashlib.blake2b(made_from.encode(), digest_size=5).hexdigest()
    name = "-".join(part for part in (_plain(facts.key), _plain(slot.name), _plain(rule.name), str(width)) if part)
    return Rendition(f"{name}.{digest}.{format_.ending}", format_.name, format_.media_type, width, height, slot.finish)


def _plain(name: str) -> str:
    """A name in letters, digits and hyphens that no URL, srcset or shell needs to escape; may be empty."""
    stem = name.rsplit("/", 1)[-1].rsplit(".", 1)[0]
    ascii_ = unicodedata.normalize("NFKD", stem).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", ascii_).strip("-")


def _lost_subjects(slot: Slot, subject: Box | None, facts: MasterFacts, cuts: Iterable[Cut]) -> Iterator[str]:
    if subject is None:
        return
    wanted = subject.times(facts.width, facts.height)
    for cut in cuts:
        share = kept(cut.box, wanted)
        if share < _SUBJECT_KEPT:
            where = _where(slot, facts, cut)
            yield f"{where}: {1 - share:.0%} of the subject is lost; give the cut a ratio nearer the subject's"


def _too_small(slot: Slot, facts: MasterFacts, cuts: Iterable[Cut]) -> Iterator[str]:
    for cut in cuts:
        if cut.soft:
            need = max(min(_need(slot, one.device), slot.widest) for one in cut.soft)
            devices = ", ".join(dict.fromkeys(str(one.device) for one in cut.soft))
            share = sum(one.share for one in cut.soft) / sum(one.share for one in cut.visits)
            yield (
                f"{_where(slot, facts, cut)}: the master gives {cut.box.width:.0f} px across, the audience needs {need}; "
                f"soft on {devices} ({share:.0%} of who meets this cut); give a larger master"
            )


def _where(slot: Slot, facts: MasterFacts, cut: Cut) -> str:
    return f"slots.{slot.name}: {facts.key}" + (f": cut {cut.rule.name}" if cut.rule.name else "")
