"""A drafted plan, tried in memory before it is written: what it would not weave, and why."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from sarvel.notices import Kind, Notice
from sarvel.pages.weave.weaver import weave
from sarvel.pipeline.roots import addresses_of
from sarvel.pipeline.site import ledger_of, read_site
from sarvel.plan.draft import Draft
from sarvel.plan.read import Plan


def unmet(draft: Draft, plan: Plan) -> Iterator[Notice]:
    """Images of a drafted plan that its own slots do not take, or that cannot be woven.

    Args:
        plan: the same, read.
    """
    with ledger_of(plan, lambda _: None, creates=False) as ledger:
        site = read_site(plan, ledger, as_it_stands=True)
    yield from site.troubles
    slots: dict[Path, dict[str, str]] = {}
    for group in draft.groups:
        for one in group.images:
            slots.setdefault(Path(one.page), {})[one.place] = group.name
    for page in site.pages:
        asks = {f"{page.file.source}:{ask.block.line}:{ask.block.column}": ask for ask in page.asks}
        for place, slot in slots.get(page.file.source, {}).items():
            if place not in asks or asks[place].slot != slot:
                left = next((note for note in page.notes if note.place == place), None)
                cure = f'write data-sarvel="{slot}" on the img'
                yield left or Notice(Kind.LEFT_OUT, place, f"slots.{slot} does not take it", cure, "note")
        yield from weave(page, site.edition, addresses_of(plan), (), None, {}, leaves_alt=True).faults
