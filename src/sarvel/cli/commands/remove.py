"""`sarvel remove`: restores the pages, and removes what Sarvel wrote and is unchanged."""

from __future__ import annotations

import argparse
import sys

from sarvel.cli.plans import plan_of
from sarvel.cli.ui.console import Console, warn
from sarvel.core.amounts import counted
from sarvel.errors import PlanError
from sarvel.files.ledger_rows import FILE_NAME
from sarvel.notices import Kind, Notice
from sarvel.pipeline.remove import Removal, carry_out, removal_of
from sarvel.pipeline.site import ledger_of


def run(options: argparse.Namespace) -> int:
    """Removes; exit code 1 if a page cannot be restored, or the user says no."""
    console = Console.of(options)
    plan = plan_of(options)
    with ledger_of(plan, warn, creates=False, keeps=False) as ledger:
        found = removal_of(plan, ledger)
        goes = options.yes or options.dry_run or _agreed(found, console)
        if goes and not options.dry_run:
            carry_out(found, ledger, console)
    files = found.files
    if goes and not options.dry_run:
        (plan.folder / FILE_NAME).unlink(missing_ok=True)
        if options.with_plan:
            plan.file.unlink()
    for file in found.pages if options.dry_run else ():
        console.result(f"restore {file}")
    for file in files if options.dry_run else ():
        console.result(f"remove  {file}")
    done = "would be removed" if options.dry_run else "removed" if goes else "left; nothing was changed"
    console.result(f"{_summed(found)}: {done}")
    left = [Notice(Kind.KEPT, str(file), why, severity="note") for file, why in found.left.items()]
    console.trouble(found.faults)
    console.notes(left)
    console.document(
        pages=[one.as_posix() for one in found.pages],
        removed=[one.as_posix() for one in files] if goes else [],
        left=left,
        faults=found.faults,
    )
    return console.code(failed=bool(found.faults) or not goes)


def _summed(found: Removal) -> str:
    return f"{counted(len(found.pages), 'page')} restored, {counted(len(found.files), 'file')}"


def _agreed(found: Removal, console: Console) -> bool:
    """Asks the user.

    Raises:
        PlanError: this is no terminal.
    """
    if console.json or not sys.stdin.isatty():
        raise PlanError.at(
            "sarvel remove",
            "would remove files, and this is no terminal to ask on",
            "add --yes, or --dry-run to see them",
        )
    pages, files = counted(len(found.pages), "page"), counted(len(found.files), "file")
    return input(f"Restore {pages} and remove {files}? Masters and the plan stay. [y/N] ").strip().lower() in (
        "y",
        "yes",
    )
