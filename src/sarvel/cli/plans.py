"""The plan that a command is called for."""

from __future__ import annotations

import argparse
from pathlib import Path

from sarvel.plan.find import find_plan
from sarvel.plan.read import Plan, read_plan, read_plan_for_undo


def plan_of(options: argparse.Namespace) -> Plan:
    """Reads the plan that the options name, or the nearest, at the effort that they name.

    Raises:
        PlanError: it is missing, or it is wrong.
    """
    file = Path(options.plan) if options.plan else find_plan(Path.cwd())
    plan = read_plan_for_undo(file) if getattr(options, "undo", False) else read_plan(file)
    effort = getattr(options, "effort", None)
    return plan.at_effort(effort) if effort else plan
