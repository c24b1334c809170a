"""Slots that no image of a page is for, often for a slip in a selector."""

from __future__ import annotations

import difflib
from collections.abc import Iterator, Sequence

from sarvel.core.html.tags import classes_of, read_tag
from sarvel.core.model import Slot
from sarvel.notices import Kind, Notice
from sarvel.pages.read.asks import Page
from sarvel.plan.read import Plan


def unused_slots(plan: Plan, pages: Sequence[Page]) -> Iterator[Notice]:
    """A note for each slot that is for no image of the pages, and lists no masters.

    Args:
        pages: all of the plan.
    """
    if not pages:  # of a single image, which has no page
        return
    used = {ask.slot for page in pages for ask in page.asks} | set(plan.content.values())
    for slot in plan.slots.values():
        if slot.name not in used and not slot.masters:
            what = ", ".join(one.css for one in slot.selectors)
            text = f"no image that can be woven matches {what}" if what else "no image names it"
            yield Notice(Kind.PLAN, plan.where("slots", slot.name), text, _cure(slot, pages), "note")


def _cure(slot: Slot, pages: Sequence[Page]) -> str:
    wanted = [name for one in slot.selectors for part in (one, *one.around) for name in sorted(part.classes)]
    tags = (read_tag(block.image, 0, page.file.dialect.code) for page in pages for block in page.blocks)
    there = sorted({name for tag in tags if tag for name in classes_of(tag)}) if wanted else []
    near = next(
        (found[0] for name in wanted if name not in there and (found := difflib.get_close_matches(name, there, 1))), ""
    )
    return (
        f"did you mean .{near}?"
        if near
        else "correct selectors, or remove the slot"
        if slot.selectors
        else "write data-sarvel on an img, or remove it"
    )
