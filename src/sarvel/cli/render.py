"""`sarvel render`: makes the renditions that are missing or out of date."""

from __future__ import annotations

import argparse

from sarvel.cli.site import Site, plan_of, read_site
from sarvel.cli.speak import Speaker
from sarvel.press.render import Rendered, available_workers, render, work_to_do
from sarvel.press.work import Made


def run(options: argparse.Namespace) -> int:
    """Renders; exit code 1 if a master or page needs the user."""
    speaker = Speaker.of(options)
    site = read_site(plan_of(options))
    rendered = press(site, options.workers, speaker)
    faults = [*site.faults, *rendered.faults.values()]
    speaker.trouble([*faults, *site.warnings])
    speaker.notes(site.notes)
    speaker.result(told(rendered, site))
    speaker.document(rendered=as_json(rendered), faults=faults, warnings=site.warnings, notes=site.notes)
    return 1 if faults or site.warnings else 0


def press(site: Site, workers: int | None, speaker: Speaker) -> Rendered:
    """Renders what is missing of a site, with progress."""
    works, kept = work_to_do(site.edition, site.plan.masters_folder, site.plan.output)
    with speaker.progress("rendering", sum(work.count for work in works)) as advance:

        def done(made: Made) -> None:
            advance(len(made.names))
            speaker.step(f"{made.key}: {len(made.names)} files made")

        return render(works, kept, workers or available_workers(), done)


def told(rendered: Rendered, site: Site) -> str:
    """What a run of the press came to, in a sentence."""
    return f"{len(rendered.made)} files made, {rendered.kept} were there already, in {site.plan.output}"


def as_json(rendered: Rendered) -> dict[str, object]:
    """What a run of the press came to."""
    return {"made": sorted(rendered.made), "kept": rendered.kept}
