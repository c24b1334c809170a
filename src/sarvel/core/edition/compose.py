"""The Edition: everything that one plan makes of one set of masters.

`compose` is pure: the same plan and the same facts give the same Edition on any machine. All commands read the Edition;
none works out a width or a crop for itself.
"""

from __future__ import annotations

import functools
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from sarvel.core.amounts import listed
from sarvel.core.crop.place import WHOLE, Box, at_least_a_pixel, kept, padded, place
from sarvel.core.crop.turn import turned, turned_size
from sarvel.core.css.device import Device
from sarvel.core.css.viewports import Viewports
from sarvel.core.edition.demand import CropDemand, demands_of, need_of
from sarvel.core.edition.expected import expected_bytes
from sarvel.core.edition.formats import READS, Few, formats_of
from sarvel.core.edition.rendition import Naming, Origin, Placeholder, Rendition, placeholder_of, rendered_as
from sarvel.core.edition.subject import SubjectSource, known_subject
from sarvel.core.facts import FormatFacts, MasterFacts
from sarvel.core.html.density import select
from sarvel.core.layout.audience import Visits
from sarvel.core.layout.ladder import SOFT, Ladder, Terms
from sarvel.core.model import ONLY_CROP, CropOverride, CropRule, Finish, Master, Slot
from sarvel.notices import Kind, Notice

_NOTHING = Master()  # what a plan says of a master that it does not name
SUBJECT_LOST = 0.001
"""The share of a subject above which a crop is stated to lose some of it; less is rounding."""


@dataclass(frozen=True)
class Crop:
    """One crop of a master for a slot, placed, with its renditions.

    Attributes:
        rule: what the plan says of it, the master's own word included.
        source: the master that it is cropped from.
        viewports: the widths on which some device meets it.
        visits: the devices of the audience that meet it; if none does, some that no one listed.
        met: all devices that meet it, and their needs.
        box: where it lies, px of the master, turned and mirrored as the rule says; beyond its edges if it is padded.
        by_hand: whether the plan gives the box.
        named_by: who names the subject.
        guessed: how sure that is, 0 to 1; None if it needs no look.
        subjects: the parts to keep in view, in px as the box is; may be empty.
        constant: its shown width in CSS px where that is the same on every device, else None; at most its own px.
        sizes: the `sizes` value, nowhere wider than its own px; "" where the shown width is constant.
        ladder: the widths of its first format, and how well they fit.
        terms: the terms on which these were chosen.
        soft: those of `visits` that need more px than the crop has.
        few: formats that are left out because few would fetch them.
        pays: how much less the files of a format must weigh than those of the next simpler one, a share; by format.
        readers: the share of the crop's visits that fetch each format; empty where all have the same widths.
        drawn: whether it is flat graphics.
        renditions: its files by format, best format first, each narrowest first.
        placeholder: shown until it has loaded, if any.
        limits: what formats cannot hold of it, and what becomes of that, a sentence each.
        less: works the crop out again without some formats.
    """

    rule: CropRule
    source: MasterFacts
    viewports: Viewports
    visits: tuple[Visits, ...]
    met: CropDemand
    terms: Terms
    box: Box
    by_hand: bool
    named_by: SubjectSource
    guessed: float | None
    subjects: tuple[Box, ...]
    constant: float | None
    sizes: str
    ladder: Ladder
    soft: tuple[Visits, ...]
    few: tuple[Few, ...]
    pays: Mapping[str, float]
    readers: Mapping[str, float]
    drawn: bool
    renditions: Mapping[str, tuple[Rendition, ...]]
    placeholder: Placeholder | None
    limits: tuple[str, ...]
    less: Callable[[frozenset[str]], Crop] = field(repr=False, compare=False)

    @property
    def lost(self) -> float:
        """The share of the first subject that the crop does not show, 0 to 1."""
        return 1 - kept(self.box, self.subjects[0]) if self.subjects else 0.0


@dataclass(frozen=True)
class Picture:
    """A master in a slot: what one tag of a page becomes.

    Attributes:
        alt: the plan's words for it, if it has any.
        crops: in the order that markup tries them; the last has no condition.
    """

    slot: Slot
    master: MasterFacts
    alt: str | None
    crops: tuple[Crop, ...]
    notices: tuple[Notice, ...]

    def renditions(self) -> Iterator[Rendition]:
        """All its files; two crops may share one."""
        return (rendition for crop in self.crops for ladder in crop.renditions.values() for rendition in ladder)

    def crop_on(self, device: Device) -> Crop:
        """The crop that a device meets."""
        return next(crop for crop in self.crops if crop.rule.media.matches(device))

    def fetched(self, device: Device) -> Rendition:
        """The file that a browser on this device fetches, if it understands the first format."""
        ladder = next(iter(self.crop_on(device).renditions.values()))
        shown = self.slot.shown.on(device) or 1.0  # nothing shown: any candidate is sharp enough
        return ladder[select([rendition.width / shown for rendition in ladder], device.dpr)]


@dataclass(frozen=True)
class Edition:
    """Everything that one plan makes: pictures in the order first asked for, by slot name and master key."""

    pictures: Mapping[tuple[str, str], Picture]

    def crops(self) -> Iterator[tuple[Picture, Crop]]:
        """All crops, each with its picture."""
        return ((picture, crop) for picture in self.pictures.values() for crop in picture.crops)

    def files(self) -> dict[str, Rendition]:
        """All files, by name: two pictures may share one."""
        return {one.name: one for picture in self.pictures.values() for one in picture.renditions()}


def compose(
    wanted: Iterable[tuple[str, str]],
    slots: Mapping[str, Slot],
    masters: Mapping[str, Master],
    facts: Mapping[str, MasterFacts],
    formats: Mapping[str, FormatFacts],
    audience: tuple[Visits, ...],
    reads: Mapping[str, float] | None = READS,
) -> Edition:
    """Works out every crop, ladder, file name and `sizes`.

    Args:
        wanted: pairs of slot name and master key, as pages ask for them; each pair once or more.
        slots: the plan's slots, by name.
        masters: what the plan says of masters, by key; not every master need be there.
        facts: masters that can be read, by key. Pairs with any other master are left out.
        formats: the formats that can be written, by name.
        audience: the devices to serve, at least one.
        reads: as for `formats_of`.
    """
    met: dict[str, tuple[CropDemand, ...]] = {}
    pictures: dict[tuple[str, str], Picture] = {}
    for slot, key in wanted:
        if (slot, key) not in pictures and all(one in facts for one in masters_of([(slot, key)], masters)):
            if slot not in met:
                met[slot] = demands_of(slots[slot], audience)
            pictures[slot, key] = _picture(met[slot], facts, key, masters, formats, reads)
    return Edition(pictures)


def masters_of(wanted: Iterable[tuple[str, str]], masters: Mapping[str, Master]) -> list[str]:
    """Keys of all masters that these pairs need, each once: their own, and those of single crops."""
    keys: dict[str, None] = {}
    for slot, key in wanted:
        keys[key] = None
        overrides = masters.get(key, _NOTHING).crops.items()
        keys |= {override.master: None for (name, _), override in overrides if name == slot and override.master}
    return list(keys)


def _picture(
    met: tuple[CropDemand, ...],
    facts: Mapping[str, MasterFacts],
    key: str,
    masters: Mapping[str, Master],
    formats: Mapping[str, FormatFacts],
    reads: Mapping[str, float] | None,
) -> Picture:
    slot = met[0].slot
    crops = [_crop(one, facts, key, masters, formats, reads) for one in met]
    alt = masters.get(key, _NOTHING).alt
    return Picture(slot, facts[key], alt, tuple(crops), tuple(dict.fromkeys(_notices(slot, facts[key], crops))))


@dataclass(frozen=True)
class _Placed:
    """A crop, placed; the attributes are those of Crop."""

    rule: CropRule
    ratio: float
    box: Box
    by_hand: bool
    named_by: SubjectSource
    guessed: float | None
    subjects: tuple[Box, ...]


_UNLIKE = 8.0  # times the expected bytes: beyond that a file is of another kind
_MOST_LISTED = 8  # devices that a note names

_place = functools.cache(place)  # masters of one camera are the same in all that it asks


def _placed(rule: CropRule, override: CropOverride, source: MasterFacts, master: Master) -> _Placed:
    """Places a crop: by hand, padded, or around the subject."""
    treatment = rule.treatment
    if override.zoom or override.subject_at:
        rule = replace(rule, zoom=override.zoom or rule.zoom, subject_at=override.subject_at or rule.subject_at)
    if override.ratio is not None:
        rule = replace(rule, ratio=override.ratio or None)
    width, height = turned_size(source.width, source.height, treatment.rotate)
    known = known_subject(source, master)
    subjects = tuple(turned(subject, treatment.rotate, mirror=treatment.mirror) for subject in known.boxes)
    ratio = rule.ratio or width / height
    if override.box:
        box = turned(override.box, treatment.rotate, mirror=treatment.mirror).times(width, height)
        box = at_least_a_pixel(box, width, height)
        ratio = box.width / box.height
    elif treatment.pad:
        box = padded(width, height, ratio)
    else:
        box = _place(width, height, ratio, subjects or (WHOLE,), zoom=rule.zoom, lean=rule.subject_at)
    by_hand = override.box is not None
    in_px = tuple(subject.times(width, height) for subject in subjects)
    return _Placed(rule, ratio, box, by_hand, known.named_by, None if by_hand else known.guessed, in_px)


def _suited(names: Iterable[str], formats: Mapping[str, FormatFacts], *, alpha: bool, drawn: bool) -> list[FormatFacts]:
    """The slot's formats for a crop. PNG replaces formats that lack alpha or exact pixels."""
    suited = (
        name
        if (formats[name].alpha or not alpha) and (formats[name].lossless or not drawn or name != "jpeg")
        else "png"
        for name in names
    )
    return [formats[name] for name in dict.fromkeys(suited)]


def _crop(
    met: CropDemand,
    facts: Mapping[str, MasterFacts],
    key: str,
    masters: Mapping[str, Master],
    formats: Mapping[str, FormatFacts],
    reads: Mapping[str, float] | None,
    without: frozenset[str] = frozenset(),
) -> Crop:
    slot = met.slot
    override = masters.get(key, _NOTHING).crops.get((slot.name, met.rule.name or ONLY_CROP), CropOverride())
    source = facts[override.master or key]
    said = masters.get(source.key, _NOTHING)
    drawn = source.drawn if said.drawn is None else said.drawn
    placed = _placed(met.rule, override, source, said)
    own_width = max(1, int(placed.box.width + 1e-6))
    alpha = source.alpha and not placed.rule.treatment.matte
    whole = _suited(slot.formats, formats, alpha=alpha, drawn=drawn)
    suited = [one for one in whole if one.name not in without]
    gone = len(whole) - len(suited)
    heavy = _heaviness(source, drawn=drawn) / placed.ratio
    choice = formats_of(met, own_width, heavy, [one.name for one in suited], reads, gone, drawn=drawn)
    most = max(ladder.widths[-1] for ladder in choice.ladders.values())
    fitting, widest = _fitting(suited, most, placed.ratio)
    limits = _limits(suited, fitting, (most, placed.ratio), widest)
    if limits:
        own_width = min(own_width, widest)
        choice = formats_of(met, own_width, heavy, [one.name for one in fitting], reads, gone, drawn=drawn)
    natural = min(own_width, _width(facts[key], placed.rule)) if override.master else own_width
    constant, sizes_value = met.said(natural)
    origin = Origin(source.digest, placed.box, placed.rule.treatment, slot.finish.gamut)
    sizes = {
        name: [(width, max(1, round(width / placed.ratio))) for width in ladder.widths]
        for name, ladder in choice.ladders.items()
    }
    naming = Naming(slot.name_files, source.key, slot.name, placed.rule.name, met.constant)
    return Crop(
        rule=placed.rule,
        source=source,
        viewports=met.viewports,
        visits=met.visits,
        met=met,
        terms=choice.terms,
        box=placed.box,
        by_hand=placed.by_hand,
        named_by=placed.named_by,
        guessed=placed.guessed,
        subjects=placed.subjects,
        constant=constant,
        sizes=sizes_value,
        ladder=next(iter(choice.ladders.values())),
        soft=tuple(one for one, need in zip(met.visits, met.needs, strict=True) if need > own_width),
        few=choice.few,
        pays=choice.pays,
        readers=choice.readers,
        drawn=drawn,
        renditions={
            name: rendered_as(origin, own, formats[name], slot.finish, naming, effort=slot.effort, drawn=drawn)
            for name, own in sizes.items()
        },
        # Behind a transparent image it would stay in sight once the image is there.
        placeholder=None if alpha else placeholder_of(origin, next(iter(sizes.values()))[0], slot.placeholder),
        limits=limits,
        less=lambda more: _crop(met, facts, key, masters, formats, reads, without | more),
    )


def _heaviness(master: MasterFacts, *, drawn: bool) -> float:
    """The bytes of a master next to the expected ones: drawings differ tenfold. A photograph's tell its quality alone."""
    expected = expected_bytes("png", (master.width, master.height), Finish(), drawn=True)
    return min(max(master.size / expected, 1 / _UNLIKE), _UNLIKE) if drawn else 1.0


def _fitting(formats: Sequence[FormatFacts], width: int, ratio: float) -> tuple[list[FormatFacts], int]:
    """The formats that hold a crop of a width, or nearly, and the greatest width that all of them hold, at most that one."""
    widest = {one.name: min(width, one.longest, int(one.longest * ratio)) for one in formats}
    most = max(widest.values())
    fitting = [one for one in formats if widest[one.name] >= (1 - SOFT) * most]
    return fitting, max(1, min(widest[one.name] for one in fitting))


def _limits(
    formats: Sequence[FormatFacts], fitting: Sequence[FormatFacts], wanted: tuple[int, float], widest: int
) -> tuple[str, ...]:
    width, ratio = wanted
    px = f"{width}x{max(1, round(width / ratio))} px"
    told = [
        f"{one.name} is left out: it holds {one.longest} px a side, not {px}" for one in formats if one not in fitting
    ]
    if widest < width:
        least = min(one.longest for one in fitting)
        told.append(f"made {widest} px wide at most: {px} are more than {least} px a side")
    return tuple(told)


def _width(master: MasterFacts, rule: CropRule) -> int:
    """Px across of a master, turned as a rule says."""
    return int(turned_size(master.width, master.height, rule.treatment.rotate)[0])


def _notices(slot: Slot, facts: MasterFacts, crops: Sequence[Crop]) -> Iterator[Notice]:
    """The notices of a picture."""
    everybody = sum(one.share for crop in crops for one in crop.visits)
    for crop in crops:
        where = f"slots.{slot.name}: {facts.key}" + (f": crop {crop.rule.name}" if crop.rule.name else "")
        share = sum(one.share for one in crop.visits) / everybody
        for one in _notices_of_crop(crop, where):
            yield replace(one, share=share) if one.place == where and one.share is None else one
        if crop.soft:
            soft = sum(one.share for one in crop.soft)
            need = max(need_of(slot, one.device) for one in crop.soft)
            devices = listed(list(dict.fromkeys(str(one.device) for one in crop.soft)), _MOST_LISTED)
            of_crop = soft / sum(one.share for one in crop.visits)
            text = (
                f"the master gives {crop.box.width:.0f} px across, the audience needs {need}; "
                f"soft on {devices} ({of_crop:.0%} of who meets this crop)"
            )
            cure = "give a larger master, unless pages show it no larger than it is"
            yield Notice(Kind.SMALL, where, text, cure, "note", soft / everybody)


def _notices_of_crop(crop: Crop, where: str) -> Iterator[Notice]:
    is_guess = crop.guessed is not None
    if crop.lost > SUBJECT_LOST:
        of = (
            "guessed subject"
            if is_guess
            else "subject that its metadata names"
            if crop.named_by == "file"
            else "subject"
        )
        cure = "give the crop a ratio nearer the subject's, or a box"
        kind = Kind.GUESS_LOST if is_guess else Kind.SUBJECT_LOST
        is_said = crop.named_by in ("plan", "import") and not is_guess
        yield Notice(kind, where, f"{crop.lost:.0%} of the {of} is lost", cure, "warning" if is_said else "note")
    yield from (Notice(Kind.REMARK, crop.source.key, one, severity="warning") for one in crop.source.remarks)
    if crop.source.note:
        yield Notice(Kind.REMARK, crop.source.key, crop.source.note, severity="note")
    if is_guess and crop.subjects:
        text = f"the subject is guessed ({crop.guessed:.0%} sure)"
        yield Notice(Kind.GUESSED, where, text, "look at it with `sarvel subjects --page`", "note")
    elif is_guess:
        text, cure = "no subject stands out, so its crops are centred", "set it in the plan if there is one"
        yield Notice(Kind.NO_SUBJECT, crop.source.key, text, cure, "note")
    outside = sum(kept(crop.box, subject) < 1 - SUBJECT_LOST for subject in crop.subjects[1:])
    if outside and not is_guess and crop.named_by != "file":
        text = f"{outside} of {len(crop.subjects)} subjects are not wholly in view, the first is"
        yield Notice(Kind.SUBJECTS_LOST, where, text, severity="note")
    yield from (Notice(Kind.LIMIT, where, limit, severity="note") for limit in crop.limits)
    for one in crop.few:
        costs = f"{one.readers:.1%} of visits would fetch it, and it would cost every visit {one.cost:.0f} bytes"
        text = f"{one.format} is left out: {costs}"
        yield Notice(Kind.FEW, where, text, severity="note", share=0.0)
