"""`sarvel` alone: the state of the site, and the next step."""

from __future__ import annotations

import argparse
from pathlib import Path

from sarvel.cli.ui.console import Console
from sarvel.plan.read import read_plan_if_any
from sarvel.tools.next_step import of_plan, without_plan


def run(options: argparse.Namespace) -> int:
    """Prints it; writes nothing."""
    console = Console(json=False, quiet=False, verbose=options.verbose)
    plan = read_plan_if_any(None, Path.cwd())
    step = of_plan(plan) if plan else without_plan(Path.cwd())
    for line in step.found:
        console.result(line)
    console.result(f"Next: {step.command}  ({step.why})")
    return 0
