"""The next step for a site, by its state."""

from __future__ import annotations

import os
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from sarvel.core.amounts import counted
from sarvel.core.html.dialect import dialect_of
from sarvel.pages.read.scan import is_image
from sarvel.pipeline.portions import Parts
from sarvel.pipeline.site import ledger_of, read_asked
from sarvel.pipeline.unfinished import unfinished
from sarvel.plan.read import Plan

_MOST = 20_000  # files that are looked at where there is no plan: someone may call from the top of a disk


@dataclass(frozen=True)
class NextStep:
    """A step.

    Attributes:
        found: the state, a line each.
    """

    found: tuple[str, ...]
    command: str
    why: str


def without_plan(folder: Path) -> NextStep:
    """The next step in a folder that no plan is for."""
    images = pages = 0
    for name in _names(folder):
        images += is_image(Path(name))
        pages += dialect_of(name, {}) is not None
    found = (f"no sarvel.toml in {folder} or above; {counted(images, 'image')} and {counted(pages, 'page')} in it",)
    if images and pages:
        return NextStep(found, "sarvel start", "drafts one from them")
    if images:
        return NextStep(found, "sarvel one IMAGE --alt WORDS", "makes the files and the markup of one image")
    return NextStep(found, "sarvel demo", "sets up a site to try everything on, in a new folder")


def _names(folder: Path) -> Iterator[str]:
    left = _MOST
    for _, folders, names in os.walk(folder):
        folders[:] = [one for one in folders if not one.startswith((".", "node_modules"))]
        yield from names[:left]
        left -= len(names)
        if left <= 0:
            return


def of_plan(plan: Plan) -> NextStep:
    """The next step of a plan. Nothing is made or written.

    Raises:
        SarvelError: the plan cannot be carried out.
    """
    with ledger_of(plan, lambda _: None, creates=False) as ledger:
        asked = read_asked(plan)
        left = unfinished(Parts(asked, ledger))
    masters = len({key for _, key in asked.wanted})
    counts = [(len(plan.slots), "slot"), (masters, "master"), (len(asked.pages), "page")]
    here = f"{plan.file}: {', '.join(counted(*one) for one in counts)}"
    wrong = (f"{counted(len(left.faults), 'fault')} of its masters and pages",) if left.faults else ()
    if left.files:
        lines = (here, *wrong, f"{counted(len(left.files), 'file')} to make, {left.there} there already")
        return NextStep(lines, "sarvel build", "makes them, weaves the pages and checks them")
    all_there = f"{counted(left.there, 'file')} there, none to make; " if plan.makes_files else ""
    late = len(left.written)
    if late:
        lines = (
            here,
            *wrong,
            f"{all_there}{counted(late, 'written file')} not as the plan says now",
        )
        return NextStep(lines, "sarvel build", "weaves them and checks them; sarvel weave --dry-run shows the changes")
    lines = (here, *wrong, f"{all_there}all pages are woven")
    return NextStep(lines, "sarvel report", "shows the results; sarvel confirm looks at the pages in a browser")
