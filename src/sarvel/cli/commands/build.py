"""`sarvel build`: renders, weaves, checks, and prints a summary."""

from __future__ import annotations

import argparse
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from sarvel.cli.at_once import result_key
from sarvel.cli.commands import check, render, weave
from sarvel.cli.plans import plan_of
from sarvel.cli.results import describe_written, show_pictures, tell_grave, unchanged
from sarvel.cli.ui.console import Console, warn
from sarvel.core.amounts import counted
from sarvel.files.ledger import Ledger
from sarvel.notices import Kind, Notice
from sarvel.pipeline.build import Built, build
from sarvel.pipeline.check import check_files, pages_of_plan
from sarvel.pipeline.page_sums import Weighed
from sarvel.pipeline.portions import Parts
from sarvel.pipeline.render import RenderOptions
from sarvel.pipeline.site import ledger_of, read_asked, texts_read
from sarvel.pipeline.unchanged import InputState, clock, folders_searched, kept_entry, places_listed
from sarvel.pipeline.unfinished import unfinished
from sarvel.plan.find import find_plan
from sarvel.plan.read import Plan


def run(options: argparse.Namespace) -> int:
    """Builds; exit code 1 if a file was not made or a page not woven."""
    console = Console.of(options)
    if options.watch:
        from sarvel.cli.watching import watching

        file = Path(options.plan) if options.plan else find_plan(Path.cwd())
        asked = render.options_of(options)
        return watching(
            file, options.effort or "quick", console, lambda plan: build_and_tell(plan, asked, console, table=False)
        )
    if options.check or options.dry_run:
        return _verify(plan_of(options), console, fails=options.check)
    return build_and_tell(plan_of(options), render.options_of(options), console, result_key(options))


def _verify(plan: Plan, console: Console, *, fails: bool) -> int:
    """Prints what a build would make and write, and what the check of the pages finds.

    Args:
        fails: whether the exit code is 1 if a build would write anything.
    """
    with ledger_of(plan, warn, creates=False, keeps=False) as ledger:
        left = unfinished(Parts(read_asked(plan), ledger))
    checked = check_files(pages_of_plan(plan), plan)
    for name in left.files:
        console.step(f"{name}: is not there")
    made = f"{counted(len(left.files), 'file')} would be made"
    late = [Notice(Kind.TO_MAKE, str(plan.file), made, "run sarvel build")] if left.files else []
    late += [Notice(Kind.TO_WRITE, str(one), "would be written otherwise", "run sarvel build") for one in left.written]
    faults = dict.fromkeys([*left.faults, *checked.faults])
    console.trouble([*late, *faults, *left.warnings])
    console.result("" if left else f"all is as {plan.file} says")
    check.tell(checked.pages, console)
    console.result(check.summed(checked.pages))
    console.document(
        to_make=list(left.files),
        to_write=[file.as_posix() for file in left.written],
        faults=list(faults),
        warnings=left.warnings,
        findings=[told for page in checked.pages for told in check.as_json(page)],
    )
    failed = bool(left.faults or checked.faults) or (fails and bool(left))
    return console.code(failed=failed or (console.strict and checked.has_grave()))


def build_and_tell(
    plan: Plan, options: RenderOptions, console: Console, words: Sequence[str] | None = None, *, table: bool = True,
    woven: Callable[[], None] = lambda: None,
) -> int:  # fmt: skip
    """Builds a plan and prints a summary.

    Args:
        options: which files to render, and how.
        words: all that the result depends on; None if the run is not to be remembered.
        table: whether all pictures are reported in a table.
        woven: called once pages are written.

    Returns:
        The exit code.
    """
    started = clock()
    with ledger_of(plan, warn) as ledger:
        built = build(plan, ledger, options, console, woven)
        document = _document(built)
        _tell(built, document, console, table=table)
        if words is not None and plan.makes_files and not (built.faults or options.only):
            _remember(built, document, ledger, words, started)
    return console.code(failed=bool(built.faults) or (console.strict and built.checked.has_grave()))


def _tell(built: Built, document: dict[str, Any], console: Console, *, table: bool) -> None:
    if table:
        show_pictures(document, console)
    console.result(render.describe(built.done))
    console.result(describe_written(document["pages"], "woven"))
    check.tell(built.checked.pages, console)
    console.result(check.summed(built.checked.pages))
    console.trouble([*built.faults, *built.done.warnings])
    console.notes(built.done.notes)
    if built.checked.has_grave():
        tell_grave(check.summed(built.checked.pages), console)
    console.document(**document)


def _remember(built: Built, document: dict[str, Any], ledger: Ledger, words: Sequence[str], started: int) -> None:
    """Keeps in the ledger the result of the next run, if nothing changes until then."""
    asked = built.done.asked
    state = InputState(
        [*texts_read(asked), *folders_searched(asked), *(one.source for one in asked.others)],
        built.checked.looked,
        (*built.pages.written, *built.pages.unchanged),
        places_listed(asked.plan),
        built.done.masters,
        started,
    )
    output = str(asked.plan.output_url or asked.plan.output)
    result = {"document": unchanged(document), "output": output, **check.for_later(built.checked)}
    ledger.remember([], kept_entry(words, state, result))


def _document(built: Built) -> dict[str, Any]:
    return {
        "pictures": [_as_json(picture) for picture in built.pictures],
        "pages_fetch": {
            "pages": built.sums.count,
            "masters_bytes": built.sums.masters,
            "bytes": {str(device): total for device, total in built.sums.fetched.items()},
        },
        "rendered": render.as_json(built.done.rendered, built.done.left_out),
        "pages": weave.as_json(built.pages),
        "faults": built.faults,
        "warnings": list(built.done.warnings),
        "notes": list(built.done.notes),
        "findings": [told for page in built.checked.pages for told in check.as_json(page)],
    }


def _as_json(one: Weighed) -> dict[str, object]:
    return {
        "slot": one.slot,
        "master": one.master,
        "master_bytes": one.master_bytes,
        "files": one.files,
        "bytes": one.total,
        "fetched": {
            str(device): {"file": name, "bytes": size, "saving": round(one.saving(device), 4)}
            for device, (name, size) in one.fetched.items()
        },
    }
