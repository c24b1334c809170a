"""Runs that have nothing to do, answered before anything slow is loaded."""

from __future__ import annotations

import argparse
from pathlib import Path

from sarvel.cli.ui.console import Console
from sarvel.files.ledger import FILE_NAME
from sarvel.pipeline.unchanged import nothing_to_do
from sarvel.plan.find import find_plan

_COMMANDS = ("render", "build")
_TAKES_WORK = (
    "only",
    "force",
    "prune",
    "verify",
    "dry_run",
    "frozen",
)  # options that ask for more than to see that all is done


def called(options: argparse.Namespace, console: Console) -> list[str] | None:
    """All that the output of a run depends on, the command first; None if the run is not to be remembered."""
    if options.command not in _COMMANDS or any(getattr(options, name, False) for name in _TAKES_WORK):
        return None
    asked = [options.plan or "", options.effort or ""]
    if options.command == "render":
        return ["render", *asked]
    return ["build", *asked, *console.form] if console.is_for_people else ["build for programs", *asked]


def answer(options: argparse.Namespace) -> int | None:
    """Answers a run that has nothing to do; None if it may have something to do.

    Raises:
        PlanError: there is no plan.
    """
    console = Console.of(options)
    words = called(options, console)
    if words is None:
        return None
    plan = Path(options.plan) if options.plan else find_plan(Path.cwd())
    said = nothing_to_do(plan.parent / FILE_NAME, words)
    if said is None:
        return None
    console.notes(said.notes)
    console.printed(said.text)
    console.document(**said.document)
    return 0
