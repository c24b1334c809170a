"""`sarvel render`: makes the renditions that are missing or out of date."""

from __future__ import annotations

import argparse
from collections.abc import Collection
from typing import Any, TypedDict

from sarvel.cli.at_once import result_key
from sarvel.cli.plans import plan_of
from sarvel.cli.results import describe_made, unchanged
from sarvel.cli.ui.console import Console, warn
from sarvel.core.amounts import counted
from sarvel.files.ledger import Ledger
from sarvel.pipeline.make_files import Rendered, estimate
from sarvel.pipeline.portions import Parts
from sarvel.pipeline.render import RenderedPlan, RenderOptions, chosen, prune_plan, render_plan, to_do
from sarvel.pipeline.site import ledger_of, read_asked, texts_read
from sarvel.pipeline.unchanged import InputState, clock, folders_searched, kept_entry, places_listed
from sarvel.plan.read import Plan

_ELSEWHERE = {
    "request": "files are made when they are first asked for, by sarvel deliver",
    "elsewhere": "files are made by the service that the pattern in site.address names",
}


def run(options: argparse.Namespace) -> int:
    """Renders; exit code 1 if a master or page needs the user."""
    console, started = Console.of(options), clock()
    plan, asked = plan_of(options), options_of(options)
    with ledger_of(plan, warn, creates=not options.dry_run) as ledger:
        if options.dry_run:
            return _predict(plan, ledger, asked, console)
        done = render_plan(plan, ledger, asked, console)
        if asked.prune:
            done.rendered.pruned = prune_plan(done.asked, ledger, list(done.faults), asked, console)
        console.trouble([*done.faults, *done.warnings])
        console.notes(list(done.notes))
        console.result(describe(done))
        document = _document(done)
        console.document(**document)
        words = result_key(options)
        if words is not None and plan.makes_files and not (done.faults or asked.only):
            read = [*texts_read(done.asked), *folders_searched(done.asked)]
            state = InputState(read, (), (), places_listed(plan), done.masters, started)
            result = {"document": unchanged(document), "output": plan.output_url or str(plan.output)}
            ledger.remember([], kept_entry(words, state, result))
    return console.code(failed=bool(done.faults))


def options_of(options: argparse.Namespace) -> RenderOptions:
    """The options of a command, as jobs take them."""
    only = tuple(options.only or ())
    return RenderOptions(only, options.force, options.verify, options.prune, options.workers, options.on)


def _document(done: RenderedPlan) -> dict[str, Any]:
    return {
        "rendered": as_json(done.rendered, done.left_out),
        "faults": list(done.faults),
        "warnings": list(done.warnings),
        "notes": list(done.notes),
    }


def _predict(plan: Plan, ledger: Ledger, asked: RenderOptions, console: Console) -> int:
    """Says files to make, and how long it may take going by the last run."""
    predicted = RenderedPlan(read_asked(plan))
    names: dict[str, list[str]] = {}
    copies: dict[str, str] = {}
    kept, seconds, is_known = 0, 0.0, False
    for site in Parts(predicted.asked, ledger).by_masters(chosen(predicted.asked, asked)):
        todo = to_do(site, ledger, asked)
        predicted.add(site, Rendered())
        for work in todo.works:
            console.result(f"{work.key}: {counted(work.count, 'file')}, {work.pixel_count / 1e6:.1f} megapixels")
            names[work.key] = [one.name for crop in work.crops for one in crop.renditions]
            for name in names[work.key]:
                console.step(name)
        some, is_known = estimate(todo, ledger, asked.workers)
        seconds += some
        kept += todo.kept
        copies |= {one.name: first for one, first in todo.copies.items()}
    if not plan.makes_files:
        console.result(describe(predicted))
    else:
        count = sum(map(len, names.values())) + len(copies)
        by = "an earlier run" if is_known else "the pixels"
        about = f"; about {seconds:.0f} s, going by {by}" if names else ""
        copied = f", {len(copies)} of them copied" if copies else ""
        console.result(f"{counted(count, 'file')} to make{copied}, {kept} are there already{about}")
        console.trouble([*predicted.faults, *predicted.warnings])
    console.document(
        to_make=names,
        to_copy=copies,
        kept=kept,
        seconds=round(seconds, 1),
        faults=list(predicted.faults),
        warnings=list(predicted.warnings),
    )
    return console.code(failed=bool(predicted.faults))


def describe(done: RenderedPlan) -> str:
    """The result in a sentence."""
    plan = done.asked.plan
    if not plan.makes_files:
        return f"nothing to render: {_ELSEWHERE[plan.delivery]}"
    return describe_made(as_json(done.rendered, done.left_out), str(plan.output_url or plan.output))


class AsJson(TypedDict):
    """The result of a run of the press, as docs/json.md has it."""

    made: list[str]
    kept: int
    left_out: list[str]
    pruned: list[str]
    altered: list[str]


def as_json(rendered: Rendered, left_out: Collection[str]) -> AsJson:
    """The result of a run of the press as JSON.

    Args:
        left_out: names of files of formats that do not pay.
    """
    return AsJson(
        made=sorted(name for name in set(rendered.made) if name not in left_out),
        kept=rendered.kept,
        left_out=sorted(name for name in set(rendered.made) if name in left_out),
        pruned=list(rendered.pruned),
        altered=list(rendered.altered),
    )
