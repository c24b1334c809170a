"""Proofs: each master with its crops and its possible subjects; masters that need a look first."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sarvel.core.crop.place import Box
from sarvel.core.edition.compose import SUBJECT_LOST, Crop, Picture
from sarvel.core.facts import FoundSubject, MasterFacts
from sarvel.core.model import Master, Slot
from sarvel.errors import MasterError, PlanError
from sarvel.files.ledger import Ledger
from sarvel.notices import Notice
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.master_facts import facts_of_master, subjects_of
from sarvel.pipeline.site import Site
from sarvel.plan.read import Plan

SURE_ENOUGH = 0.8
"""How sure a guess is at least that needs no look."""

_WHOLE = 0.98  # a crop of more of its master leaves nothing out that anyone would miss

Row = tuple[Slot, Crop]


@dataclass(frozen=True)
class Proof:
    """A master on the sheet.

    Attributes:
        rows: its crops in reading order, each with its slot: slots as the plan has them, crops from the narrowest viewports up.
        found: possible subjects; None if the plan sets the subject, or it could not be read.
    """

    master: MasterFacts
    rows: tuple[Row, ...]
    found: FoundSubject | None

    @property
    def loses(self) -> bool:
        """Whether a crop loses some of the subject."""
        return any(crop.lost > SUBJECT_LOST for _, crop in self.rows)

    @property
    def unsure(self) -> bool:
        """Whether a crop leaves something out, no subject is set, and the guess is not sure enough."""
        area = _WHOLE * self.master.width * self.master.height
        crops_some = any(crop.box.width * crop.box.height < area for _, crop in self.rows)
        return crops_some and self.found is not None and not sure_enough(self.found)

    @property
    def guesses(self) -> tuple[Box, ...]:
        """What an unsure one may be about: one to three boxes, the most likely first."""
        return (self.found.box, *self.found.others) if self.found and self.unsure else ()

    @property
    def about(self) -> str:
        """What to say of its subject, in a few words; "" if the plan names it."""
        if self.found and any(crop.guessed is not None and crop.subjects for _, crop in self.rows):
            return f"subject guessed, {self.found.sure:.0%} sure"
        if any(crop.subjects for _, crop in self.rows):
            return ""
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
    """The masters of a site: first those with a lossy crop, then those with an uncertain subject, then the others.

    Args:
        found: what masters may be about whose subject the plan does not name, by key.
    """
    order = list(site.plan.slots)
    pictures: list[Picture] = sorted(site.edition.pictures.values(), key=lambda picture: order.index(picture.slot.name))
    rows: dict[MasterFacts, list[Row]] = {}
    for picture in pictures:
        crops = sorted(picture.crops, key=lambda crop: crop.viewports.least)
        rows.setdefault(picture.master, []).extend((picture.slot, crop) for crop in crops)
    proofs = [Proof(master, tuple(some), found.get(master.key)) for master, some in rows.items()]
    return sorted(proofs, key=lambda proof: (not proof.loses, not proof.unsure))


def found_in(site: Site, ledger: Ledger, listener: Listener) -> tuple[dict[str, FoundSubject], list[Notice]]:
    """Looks for the subjects of all masters in use whose subject the plan does not name; by key, and what went wrong."""
    plan = site.plan
    keys = dict.fromkeys(crop.source.key for picture in site.edition.pictures.values() for crop in picture.crops)
    lacking = [key for key in keys if not plan.masters.get(key, Master()).subjects]
    found: dict[str, FoundSubject] = {}
    faults: list[Notice] = []
    facts: list[MasterFacts] = []
    for key in lacking:
        try:
            facts.append(facts_of_master(site.masters, key, ledger))
        except MasterError as error:
            faults += error.notices
    with listener.progress("looking", len(facts)) as advance:
        for key, one in subjects_of(site.masters, facts, ledger):
            if isinstance(one, FoundSubject):
                found[key] = one
            else:
                faults += one.notices
            advance(1, key)
    return {key: found[key] for key in lacking if key in found}, faults


def chosen(said: str, plan: Plan, found: Mapping[str, FoundSubject]) -> tuple[str, Box]:
    """The master and the box that `MASTER=NUMBER` or `MASTER=LEFT,TOP,RIGHT,BOTTOM` means.

    Args:
        found: what masters may be about, by key.

    Raises:
        PlanError: it names no master in use, none that lacks a subject, no guess or no box.
    """
    key, is_there, which = said.rpartition("=")
    if not is_there:
        raise PlanError.at("", f"--choose {said}: say MASTER=NUMBER or MASTER=LEFT,TOP,RIGHT,BOTTOM, as in lamp.jpg=2")
    if plan.masters.get(key, Master()).subjects:
        raise PlanError.at("", f"--choose {said}: the plan names the subject of {key}", "change it there")
    if key not in found:
        some = ", ".join(sorted(found)[:3]) or "none"
        raise PlanError.at(
            "", f"--choose {said}: no page asks for a master {key}", f"those without a subject are {some}, …"
        )
    boxes = (found[key].box, *found[key].others)
    if which.isdecimal():
        if not 1 <= int(which) <= len(boxes):
            many = "1 guess" if len(boxes) == 1 else f"{len(boxes)} guesses"
            raise PlanError.at("", f"--choose {said}: there is {many} of {key}", "see `sarvel proof`")
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
