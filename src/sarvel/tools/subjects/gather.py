"""Proofs: each master with its crops and its subject; masters that need a look first."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from sarvel.core.crop.place import Box, kept
from sarvel.core.crop.turn import turned, turned_size
from sarvel.core.edition.compose import SUBJECT_LOST, Crop, Picture
from sarvel.core.edition.subject import KnownSubject, SubjectSource, known_subject
from sarvel.core.facts import SURE_ENOUGH, FoundSubject, MasterFacts
from sarvel.core.model import Master, Slot
from sarvel.errors import PlanError
from sarvel.files.ledger import Ledger
from sarvel.notices import Notice
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.master_facts import subjects_of
from sarvel.pipeline.site import Site
from sarvel.plan.read import Plan

_WHOLE = 0.98  # a crop of more of its master leaves nothing out that anyone would miss

Row = tuple[Slot, Crop]


@dataclass(frozen=True)
class Proof:
    """A master on the sheet.

    Attributes:
        rows: its crops in reading order, each with its slot: slots as the plan has them, crops from the narrowest viewports up.
        known: its subject, as crops go by it.
        found: possible subjects; None if one is named, or the master could not be read.
    """

    master: MasterFacts
    rows: tuple[Row, ...]
    known: KnownSubject
    found: FoundSubject | None

    @property
    def loses(self) -> bool:
        """Whether a crop loses some of the subject."""
        return any(crop.lost > SUBJECT_LOST for _, crop in self.rows)

    @property
    def crops_some(self) -> bool:
        """Whether a crop leaves something out."""
        area = _WHOLE * self.master.width * self.master.height
        return any(crop.box.width * crop.box.height < area for _, crop in self.rows)

    @property
    def unsure(self) -> bool:
        """Whether a crop leaves something out, and the source of the subject is not sure enough."""
        is_sure = sure_enough(self.found) if self.found else self.known.guessed is None
        return self.crops_some and not is_sure

    @property
    def is_ignored(self) -> bool:
        """Whether a guess is sure enough, and a crop that leaves something out does not go by it."""
        return self.crops_some and not self.known.named_by and self.found is not None and sure_enough(self.found)

    @property
    def guesses(self) -> tuple[Box, ...]:
        """What an unsure one may be about: one to three boxes, the most likely first."""
        return self.choices if self.unsure else ()

    @property
    def choices(self) -> tuple[Box, ...]:
        """The boxes of its guess, the most likely first; empty if nothing was looked for."""
        return (self.found.box, *self.found.others) if self.found else ()

    @property
    def named_by(self) -> SubjectSource:
        """Who names its subject; also a guess that crops do not follow."""
        return self.known.named_by or ("guess" if self.found and self.found.subjects else "")

    @property
    def boxes(self) -> tuple[Box, ...]:
        """The subject, in fractions, as `named_by` has it; empty for none."""
        return self.known.boxes or (self.found.subjects if self.found else ())

    @property
    def sure(self) -> float | None:
        """How sure the source of the subject is, or the best guess; None if nothing says."""
        if self.found:
            return self.found.sure
        return self.master.named.sure if self.master.named and self.named_by == "import" else None

    def lost(self, crop: Crop) -> float:
        """The share of the subject that one of its crops does not show, 0 to 1; also of a guess that the crop does not follow."""
        if not self.boxes:
            return 0.0
        treatment, source = crop.rule.treatment, crop.source
        size = turned_size(source.width, source.height, treatment.rotate)
        return 1 - kept(crop.box, turned(self.boxes[0], treatment.rotate, mirror=treatment.mirror).times(*size))

    @property
    def about(self) -> str:
        """What to say of its subject, in a few words; "" if the plan names it."""
        match self.known.named_by:
            case "plan":
                return ""
            case "file":
                return "subject named by its metadata"
            case "import":
                return "subject imported" + (f", {self.sure:.0%} sure" if self.sure is not None else "")
        if self.known.boxes and self.found:
            return f"subject guessed, {self.found.sure:.0%} sure"
        found = self.found if self.found and self.found.subjects else None
        return "no subject, so centred" + (f" · guess {found.sure:.0%} sure" if found else "")

    @property
    def trouble(self) -> str:
        """The problem in a few words, or ""."""
        if self.loses:
            return f"loses {max(crop.lost for _, crop in self.rows):.0%} of the subject"
        return "choose a subject" if self.unsure else ""


def sure_enough(found: FoundSubject, least: float = SURE_ENOUGH) -> bool:
    """Tells whether a part of the picture was found, as sure as that at least."""
    return found.is_part and found.sure >= least


def proofs_of(site: Site, found: Mapping[str, FoundSubject]) -> list[Proof]:
    """The pictures of a site by master: first those with a lossy crop, then those with an uncertain subject, then the others.

    Args:
        found: what masters may be about whose subject nothing names, by key.
    """
    return _proofs(site, found, lambda picture, _: picture.master)


def proofs_of_sources(site: Site, found: Mapping[str, FoundSubject]) -> list[Proof]:
    """Like `proofs_of`, with each crop at the master that it is cropped from."""
    return _proofs(site, found, lambda _, crop: crop.source)


def _proofs(
    site: Site, found: Mapping[str, FoundSubject], master_of: Callable[[Picture, Crop], MasterFacts]
) -> list[Proof]:
    order = {name: i for i, name in enumerate(site.plan.slots)}
    rows: dict[str, list[Row]] = {}
    masters: dict[str, MasterFacts] = {}
    for picture in sorted(site.edition.pictures.values(), key=lambda picture: order[picture.slot.name]):
        for crop in sorted(picture.crops, key=lambda crop: crop.viewports.least):
            master = master_of(picture, crop)
            masters[master.key] = master
            rows.setdefault(master.key, []).append((picture.slot, crop))
    proofs = [
        Proof(masters[key], tuple(some), known_subject(masters[key], _said(site.plan, key)), found.get(key))
        for key, some in rows.items()
    ]
    return sorted(proofs, key=lambda proof: (not proof.loses, not proof.unsure))


def found_in(site: Site, ledger: Ledger, listener: Listener) -> tuple[dict[str, FoundSubject], list[Notice]]:
    """Looks for the subjects of all masters in use whose subject nothing names; by key, and what went wrong."""
    sources = {crop.source.key: crop.source for picture in site.edition.pictures.values() for crop in picture.crops}
    lacking = [one for key, one in sources.items() if not (_said(site.plan, key).subjects or one.named)]
    found: dict[str, FoundSubject] = {}
    faults: list[Notice] = []
    with listener.progress("looking", len(lacking)) as advance:
        for key, one in subjects_of(site.masters, lacking, ledger):
            if isinstance(one, FoundSubject):
                found[key] = one
            else:
                faults += one.notices
            advance(1, key)
    return {one.key: found[one.key] for one in lacking if one.key in found}, faults


def _said(plan: Plan, key: str) -> Master:
    return plan.masters.get(key, Master())


def chosen(said: str, plan: Plan, proofs: Mapping[str, Proof]) -> tuple[str, Box]:
    """The master and the box that `MASTER=NUMBER` or `MASTER=LEFT,TOP,RIGHT,BOTTOM` means.

    Args:
        proofs: of all masters in use, by key.

    Raises:
        PlanError: it names no master in use, one whose subject the plan names, no guess or no box.
    """
    key, is_there, which = said.rpartition("=")
    if not is_there:
        raise PlanError.at("", f"--choose {said}: say MASTER=NUMBER or MASTER=LEFT,TOP,RIGHT,BOTTOM, as in lamp.jpg=2")
    if _said(plan, key).subjects:
        raise PlanError.at("", f"--choose {said}: the plan names the subject of {key}", "change it there")
    if key not in proofs:
        some = ", ".join(sorted(one for one in proofs if not _said(plan, one).subjects)[:3]) or "none"
        raise PlanError.at(
            "", f"--choose {said}: no page asks for a master {key}", f"those without a subject are {some}, …"
        )
    if which.isdecimal():
        boxes = proofs[key].choices
        if not 1 <= int(which) <= len(boxes):
            many = "is 1 guess" if len(boxes) == 1 else f"are {len(boxes) or 'no'} guesses"
            raise PlanError.at("", f"--choose {said}: there {many} of {key}", "see `sarvel proof`, or write a box")
        return key, boxes[int(which) - 1]
    return key, _box(which, said)


def _box(which: str, said: str) -> Box:
    try:
        left, top, right, bottom = (float(edge) for edge in which.split(","))
    except ValueError:
        left = top = right = bottom = -1.0
    if not (0 <= left < right <= 1 and 0 <= top < bottom <= 1):
        raise PlanError.at(
            "",
            f"--choose {said}: a box is left, top, right and bottom in fractions of the master, as in 0.2,0.1,0.6,0.9",
        )
    return Box(left, top, right, bottom)
