"""Runs that have nothing to do, answered before anything slow is loaded."""

from __future__ import annotations

import argparse
from pathlib import Path

from sarvel.cli.results import tell_unchanged
from sarvel.cli.ui.console import Console
from sarvel.files.ledger_rows import FILE_NAME
from sarvel.pipeline.unchanged import kept_result
from sarvel.plan.find import find_plan

_COMMANDS = ("render", "build")
# Options that ask for more than to see that all is done.
_TAKES_WORK = ("only", "force", "prune", "verify", "dry_run", "check", "watch")


def result_key(options: argparse.Namespace) -> list[str] | None:
    """All that the result of a run depends on, the command first; None if the run is not to be remembered."""
    if options.command not in _COMMANDS or any(getattr(options, name, False) for name in _TAKES_WORK):
        return None
    return [options.command, options.plan or "", options.effort or ""]


def skip_unchanged(options: argparse.Namespace) -> int | None:
    """Answers a run that has nothing to do; None if it may have something to do.

    Raises:
        PlanError: there is no plan.
    """
    words = result_key(options)
    if words is None:
        return None
    plan = Path(options.plan) if options.plan else find_plan(Path.cwd())
    result = kept_result(plan.parent / FILE_NAME, words)
    if result is None:
        return None
    return tell_unchanged(result, Console.of(options))
