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
from sarvel.core.html.candidates import select
from sarvel.core.layout.audience import Visits
from sarvel.core.layout.ladder import by_hand, demand, even_spread
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
        box: where it lies, px of the upright master.
        constant: its shown width in CSS px where that is the same on every device, else None.
        shown: its shown width on the widest showing device of the audience, CSS px.
        sizes: the `sizes` value; "" where the shown width is constant.
        ladders: its renditions by format, best format first, each narrowest first.
    """

    rule: CutRule
    box: Box
    constant: float | None
    shown: float
    sizes: str
    ladders: Mapping[str, tuple[Rendition, ...]]

    @property
    def media(self) -> str:
        """The media condition that it is for; "" if it is for whatever the others leave."""
        return self.rule.band.media


@dataclass(frozen=True)
class Picture:
    """A master in a slot: what one tag of a page becomes.

    Attributes:
        slot: the slot.
        master: the master.
        alt: the plan's words for it, if it has any.
        cuts: in the order that markup tries them: widest band first.
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
        return (rendition for cut in self.cuts for ladder in cut.ladders.values() for rendition in ladder)

    def cut_on(self, device: Device) -> Cut:
        """The cut that a device meets."""
        return next(cut for cut in self.cuts if device.width in cut.rule.band)

    def fetched(self, device: Device) -> Rendition:
        """The file that a browser on this device fetches, if it understands the first format."""
        ladder = next(iter(self.cut_on(device).ladders.values()))
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
    cuts = tuple(_cut(slot, rule, facts, master.subject or WHOLE, chosen, audience) for rule in reversed(slot.cuts))
    warnings = tuple(_lost_subjects(slot, master.subject, facts, cuts))
    return Picture(slot, facts, master.alt, cuts, warnings, tuple(_too_small(slot, facts, cuts, audience)))


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
    audience: tuple[Visits, ...],
) -> Cut:
    ratio = rule.ratio or facts.width / facts.height
    box = place(facts.width, facts.height, ratio, subject)
    devices = _meeting(rule, audience)
    constant = slot.shown.constant(rule.band)
    widths = _ladder(slot, devices, int(box.width + 1e-6), constant)
    sizes = "" if constant is not None else slot.shown.sizes(rule.band, lazy=slot.load == "later")
    ladders = {
        format_.name: tuple(_rendition(slot, rule, facts, box, ratio, width, format_) for width in widths)
        for format_ in formats
    }
    return Cut(rule, box, constant, max(slot.shown.on(device) for device in devices), sizes, ladders)


def _meeting(rule: CutRule, audience: tuple[Visits, ...]) -> list[Device]:
    """The devices that meet a cut; where the audience has none, the edge of the cut's band at its highest density."""
    devices = [visits.device for visits in audience if visits.device.width in rule.band]
    return devices or [Device(max(1, rule.band.start), 800, max(visits.device.dpr for visits in audience))]


def _ladder(slot: Slot, devices: list[Device], own_width: int, constant: float | None) -> tuple[int, ...]:
    limit = max(1, min(own_width, slot.widest))
    if slot.widths:
        return by_hand(slot.widths, limit)
    if constant is not None:
        return by_hand({demand(constant, density, slot.densities) for density in slot.densities}, limit)
    return even_spread(
        (demand(slot.shown.on(device), device.dpr, slot.densities) for device in devices), slot.rungs, limit
    )


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
    name = "-".join(part for part in (_plain(facts.key), _plain(slot.name), _plain(rule.band.name), str(width)) if part)
    return Rendition(f"{name}.{digest}.{format_.ending}", format_.name, format_.media_type, width, height, slot.finish)


def _plain(name: str) -> str:
    """A name in letters, digits and hyphens that no URL, srcset or shell needs to escape; may be empty."""
    stem = name.rsplit("/", 1)[-1].rsplit(".", 1)[0]
    ascii_ = unicodedata.normalize("NFKD", stem).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", ascii_).strip("-")


def _lost_subjects(slot: Slot, subject: Box | None, facts: MasterFacts, cuts: tuple[Cut, ...]) -> Iterator[str]:
    if subject is None:
        return
    wanted = subject.times(facts.width, facts.height)
    for cut in cuts:
        share = kept(cut.box, wanted)
        if share < _SUBJECT_KEPT:
            where = _where(slot, facts, cut)
            yield f"{where}: {1 - share:.0%} of the subject is lost; give the cut a ratio nearer the subject's"


def _too_small(slot: Slot, facts: MasterFacts, cuts: tuple[Cut, ...], audience: tuple[Visits, ...]) -> Iterator[str]:
    for cut in cuts if slot.widths is None else ():
        widest = next(iter(cut.ladders.values()))[-1].width
        devices = _meeting(cut.rule, audience)
        need = max(demand(slot.shown.on(device), device.dpr, slot.densities) for device in devices)
        if widest < min(need, slot.widest):
            where = _where(slot, facts, cut)
            yield f"{where}: the master gives {widest} px across, the audience needs {need}; give a larger master"


def _where(slot: Slot, facts: MasterFacts, cut: Cut) -> str:
    return f"slots.{slot.name}: {facts.key}" + (f": cut {cut.rule.band.name}" if cut.rule.band.name else "")
