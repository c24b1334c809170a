"""`sarvel weave`: writes the markup into the pages, shows it, or takes it back."""

from __future__ import annotations

import argparse
from collections.abc import Iterable
from pathlib import Path

from sarvel.cli.plans import plan_of
from sarvel.cli.results import describe_written
from sarvel.cli.ui.console import Console, warn
from sarvel.core.amounts import counted
from sarvel.files.atomic import holds
from sarvel.files.ledger import Ledger
from sarvel.notices import Kind, Notice
from sarvel.pages.read.page_files import seen_from
from sarvel.pages.weave.weaver import Woven, unweave
from sarvel.pipeline.portions import Parts
from sarvel.pipeline.render import make_placeholders
from sarvel.pipeline.site import RequestedImages, ledger_of, read_asked
from sarvel.pipeline.weave import (
    WrittenPages,
    in_place,
    only_pages,
    unweave_plan,
    weave_plan,
    without_marks,
    woven_pages,
)
from sarvel.plan.read import Plan


def run(options: argparse.Namespace) -> int:
    """Weaves; exit code 1 if a page needs the user."""
    console = Console.of(options)
    plan = plan_of(options)
    with ledger_of(plan, warn, creates=not (options.dry_run or options.check), keeps=not options.check) as ledger:
        asked = only_pages(read_asked(plan, for_undo=options.undo), options.pages)
        if options.marks == "none":
            asked = without_marks(asked)
        if options.undo:
            return _undo(asked, ledger, options, console)
        parts = Parts(asked, ledger, as_it_stands=True)
        if options.check:
            return _verify(parts, console)
        make_placeholders(parts, console)
        if options.dry_run:
            return _show((woven for woven, _ in woven_pages(parts)), parts, console)
        pages = weave_plan(parts, console)
        console.result(describe_written(as_json(pages), "woven"))
        return _tell(pages, parts, console)


def _undo(asked: RequestedImages, ledger: Ledger, options: argparse.Namespace, console: Console) -> int:
    if options.dry_run:
        return _show(map(unweave, in_place(asked).pages), None, console)
    pages = unweave_plan(asked, ledger, console, whole=not options.pages)
    console.result(
        _nothing_to_restore(asked.plan)
        if asked.plan.woven and not pages.images
        else describe_written(as_json(pages), "restored")
    )
    return _tell(pages, None, console)


def _nothing_to_restore(plan: Plan) -> str:
    woven = seen_from(Path.cwd(), plan.woven or plan.folder)
    return f"nothing to restore: pages are woven into {woven}/, and their authors' own never change; delete {woven}/ at will"


def _verify(parts: Parts, console: Console) -> int:
    """Prints the pages that are not up to date; exit code 1 if there are any."""
    results = [woven for woven, _ in woven_pages(parts)]
    late = [woven.page.file.target for woven in results if not holds(woven.page.file.target, woven.content)()]
    faults = list(dict.fromkeys([*_faults(parts), *(fault for woven in results for fault in woven.faults)]))
    text, cure = "is not woven as the plan says now", "run sarvel build"
    console.trouble([*(Notice(Kind.TO_WRITE, str(file), text, cure) for file in late), *faults])
    console.result("" if late or faults else f"{counted(len(results), 'page')} woven as {parts.asked.plan.file} says")
    console.document(to_write=[file.as_posix() for file in late], faults=faults)
    return console.code(failed=bool(late or faults))


def _show(results: Iterable[Woven], parts: Parts | None, console: Console) -> int:
    """Prints the changes as a diff."""
    woven = list(results)
    console.diff("".join(one.diff() for one in woven))
    faults = tuple(fault for one in woven for fault in one.faults)
    pages = WrittenPages((), (), sum(one.count for one in woven), faults)
    return _tell(pages, parts, console, diff={one.page.file.source.as_posix(): one.diff() for one in woven})


def _tell(pages: WrittenPages, parts: Parts | None, console: Console, **more: object) -> int:
    faults = [*(_faults(parts) if parts else ()), *pages.faults]
    console.trouble(faults)
    console.document(pages=as_json(pages), faults=faults, **more)
    return console.code(failed=bool(faults))


def _faults(parts: Parts) -> dict[Notice, None]:
    return dict.fromkeys(fault for site in parts.by_masters() for fault in site.faults)


def as_json(pages: WrittenPages) -> dict[str, object]:
    """The result of writing pages, as JSON."""
    written = [path.as_posix() for path in pages.written]
    return {"written": written, "unchanged": len(pages.unchanged), "images": pages.images}
