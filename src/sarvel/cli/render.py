"""`sarvel render`: makes the renditions that are missing or out of date."""

from __future__ import annotations

import argparse

from sarvel.cli.site import plan_of, read_site
from sarvel.cli.speak import Speaker
from sarvel.core.edition import Edition
from sarvel.plan.read import Plan
from sarvel.press.render import Rendered, available_workers, render, work_to_do
from sarvel.press.work import Made


def run(options: argparse.Namespace) -> int:
    """Renders; exit code 1 if a master or page needs the user."""
    speaker = Speaker.of(options)
    site = read_site(plan_of(options))
    rendered = press(site.plan, site.edition, options.workers, speaker)
    faults = [*site.faults, *rendered.faults.values()]
    speaker.trouble([*faults, *site.warnings])
    speaker.notes(site.notes)
    speaker.result(told(rendered, site.plan))
    speaker.document(rendered=as_json(rendered), faults=faults, warnings=site.warnings, notes=site.notes)
    return 1 if faults or site.warnings else 0


def press(plan: Plan, edition: Edition, workers: int | None, speaker: Speaker) -> Rendered:
    """Renders what is missing of an Edition, with progress."""
    works, kept = work_to_do(edition, plan.masters_folder, plan.output)
    with speaker.progress("rendering", sum(work.count for work in works)) as advance:

        def done(made: Made) -> None:
            advance(len(made.names))
            speaker.step(f"{made.key}: {len(made.names)} files made")

        return render(works, kept, workers or available_workers(), done)


def told(rendered: Rendered, plan: Plan) -> str:
    """What a run of the press came to, in a sentence."""
    return f"{len(rendered.made)} files made, {rendered.kept} were there already, in {plan.output}"


def as_json(rendered: Rendered) -> dict[str, object]:
    """What a run of the press came to."""
    return {"made": sorted(rendered.made), "kept": rendered.kept}
