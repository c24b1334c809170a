"""Words of a plan that are for nothing, often for a slip: slots and selectors of no image, subjects of no master."""

from __future__ import annotations

import difflib
from collections.abc import Iterable, Iterator, Sequence

from sarvel.core.html.selector import Selector
from sarvel.core.html.tags import classes_of, read_tag
from sarvel.core.model import Slot
from sarvel.notices import Kind, Notice
from sarvel.pages.read.asks import Page
from sarvel.pipeline.plan_folders import MastersFolder
from sarvel.plan.read import Plan


def unused_slots(plan: Plan, pages: Sequence[Page]) -> Iterator[Notice]:
    """A note for each slot that is for no image of the pages, and lists no masters; and for each selector with such classes.

    Args:
        pages: all of the plan.
    """
    if not pages:  # of a single image, which has no page
        return
    used = {ask.slot for page in pages for ask in page.asks} | set(plan.content.values())
    used |= {slot for said in plan.data.values() for slot in said}
    selectors = any(slot.selectors for slot in plan.slots.values())
    there = list(_classes_of_images(pages)) if selectors else []
    for slot in plan.slots.values():
        where = plan.where("slots", slot.name)
        if slot.name not in used and not slot.masters:
            what = ", ".join(one.css for one in slot.selectors)
            text = f"no image that can be woven matches {what}" if what else "no image names it"
            yield Notice(Kind.PLAN, where, text, _cure(slot, there), "note")
        elif slot.use == "picture":
            idle = [one for one in slot.selectors if one.classes and not any(one.classes <= own for own in there)]
            yield from (
                Notice(Kind.PLAN, where, f"no image matches {one.css}", _near([one], there), "note") for one in idle
            )


def subjects_of_nothing(plan: Plan, masters: MastersFolder) -> Iterator[Notice]:
    """A warning for each name in the file of subjects that is no master's."""
    for key, rows in plan.subjects.rows.items() if plan.subjects else ():
        if masters.stamp(key) is None:
            near = difflib.get_close_matches(key, masters.images("**/*"), 1)
            cure = f"did you mean {near[0]}?" if near else "write its path below the masters folder, or remove the row"
            yield Notice(Kind.MASTER, rows[0].place, f"there is no master {key}", cure, "warning")


def _classes_of_images(pages: Sequence[Page]) -> Iterator[set[str]]:
    """The classes of each image."""
    tags = (read_tag(block.image, 0, page.file.dialect.code) for page in pages for block in page.blocks)
    return (set(classes_of(tag)) for tag in tags if tag)


def _near(selectors: Iterable[Selector], there: Iterable[Iterable[str]]) -> str:
    """The class of an image that a selector may mean; else what to do."""
    known = sorted({name for own in there for name in own})
    wanted = [name for one in selectors for part in (one, *one.around) for name in sorted(part.classes)]
    near = [one for name in wanted if name not in known for one in difflib.get_close_matches(name, known, 1)]
    return f"did you mean .{near[0]}?" if near else "correct selectors, or remove it from them"


def _cure(slot: Slot, there: Iterable[Iterable[str]]) -> str:
    if slot.use not in ("picture", "background"):
        return "name a master in such a place, or remove it"
    if not slot.selectors:
        return "write data-sarvel on an img, or remove it"
    return _near(slot.selectors, there).replace("or remove it from them", "or remove the slot")
