"""`sarvel render`: makes the renditions that are missing or out of date."""

from __future__ import annotations

import argparse
from collections.abc import Iterable
from typing import TypedDict

from sarvel.cli.at_once import called
from sarvel.cli.console import Console, warn
from sarvel.cli.plans import plan_of
from sarvel.core.edition.settle import LeftOut
from sarvel.job.render import RenderOptions, estimate, pruned, render_site, to_do
from sarvel.job.site import Site, ledger_of, read_site
from sarvel.job.unchanged import Said, Seen, entry, folders_read, now
from sarvel.press.executor import Rendered
from sarvel.press.ledger import Ledger

_ELSEWHERE = {
    "request": "files are made when they are first asked for, by sarvel serve",
    "elsewhere": "files are made by the service that the pattern in site.address names",
}


def run(options: argparse.Namespace) -> int:
    """Renders; exit code 1 if a master or page needs the user."""
    console, started = Console.of(options), now()
    plan, asked = plan_of(options), options_of(options)
    with ledger_of(plan, warn, creates=not options.dry_run) as ledger:
        site = read_site(plan, ledger)
        if options.dry_run:
            return _foretell(site, ledger, asked, console)
        site, rendered = render_site(site, ledger, asked, console)
        if asked.prune:
            rendered.pruned = pruned(site, ledger, rendered, asked, console)
        faults = [*site.faults, *rendered.faults.values()]
        console.trouble([*faults, *site.warnings])
        console.notes(site.notes)
        console.result(told(rendered, site))
        console.document(**_document(rendered, site, faults))
        words = called(options, console)
        if words is not None and plan.makes_files and not (faults or site.warnings):
            names = {one.name for picture in site.edition.pictures.values() for one in picture.renditions()}
            again = Rendered(kept=len(names))
            said = Said(site.notes, f"{told(again, site)}\n", _document(again, site, []))
            seen = Seen([*site.files_read(), *folders_read(site)], (), (), plan.output, started)
            ledger.remember([], entry(words, seen, said))
    return 1 if faults or site.warnings else 0


def options_of(options: argparse.Namespace) -> RenderOptions:
    """The options of a command, as jobs take them."""
    only = tuple(options.only or ())
    return RenderOptions(only, options.force, options.verify, options.prune, options.workers, options.on)


def _document(rendered: Rendered, site: Site, faults: list[str]) -> dict[str, object]:
    return {
        "rendered": as_json(rendered, site.left_out),
        "faults": faults,
        "warnings": site.warnings,
        "notes": site.notes,
    }


def _foretell(site: Site, ledger: Ledger, asked: RenderOptions, console: Console) -> int:
    """Says what would be made, and how long that may take going by the last run."""
    if not site.plan.makes_files:
        console.result(told(Rendered(), site))
        console.document(to_make={}, to_copy={}, kept=0, seconds=0.0, faults=site.faults, warnings=site.warnings)
        return 1 if site.faults or site.warnings else 0
    todo = to_do(site, ledger, asked)
    names = {work.key: [one.name for cut in work.cuts for one in cut.renditions] for work in todo.works}
    for work in todo.works:
        console.result(f"{work.key}: {work.count} files, {work.cost / 1e6:.0f} megapixels")
        for name in names[work.key]:
            console.step(name)
    seconds, is_known = estimate(todo, ledger, asked.workers)
    about = f"; about {seconds:.0f} s, going by {'an earlier run' if is_known else 'the pixels'}" if todo.works else ""
    copies = {one.name: first for one, first in todo.copies.items()}
    copied = f", {len(copies)} of them copied" if copies else ""
    console.result(f"{todo.count} files to make{copied}, {todo.kept} are there already{about}")
    console.trouble([*site.faults, *site.warnings])
    console.document(
        to_make=names, to_copy=copies, kept=todo.kept, seconds=seconds, faults=site.faults, warnings=site.warnings
    )
    return 1 if site.faults or site.warnings else 0


def told(rendered: Rendered, site: Site) -> str:
    """The result of a run of the press, in a sentence."""
    if not site.plan.makes_files:
        return f"nothing to render: {_ELSEWHERE[site.plan.delivery]}"
    made = as_json(rendered, site.left_out)["made"]
    gone = f", {len(rendered.pruned)} pruned" if rendered.pruned else ""
    return f"{len(made)} files made, {rendered.kept} were there already{gone}, in {site.plan.output}"


class AsJson(TypedDict):
    """The result of a run of the press, as docs/json.md has it."""

    made: list[str]
    kept: int
    left_out: list[str]
    pruned: list[str]
    altered: list[str]


def as_json(rendered: Rendered, left_out: Iterable[LeftOut]) -> AsJson:
    """The result of a run of the press as JSON, without files of formats that do not pay."""
    gone = {file.name for one in left_out for file in one.renditions}
    made = {file.name for file in rendered.made}
    return AsJson(
        made=sorted(made - gone),
        kept=rendered.kept,
        left_out=sorted(made & gone),
        pruned=list(rendered.pruned),
        altered=list(rendered.altered),
    )
