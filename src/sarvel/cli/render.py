"""`sarvel render`: makes the renditions that are missing or out of date."""

from __future__ import annotations

import argparse
from collections.abc import Iterable
from typing import TypedDict

from sarvel.cli.site import Site, ledger_of, plan_of, read_site
from sarvel.cli.speak import Speaker
from sarvel.core.edition import Edition
from sarvel.core.settle import LeftOut
from sarvel.plan.read import Plan
from sarvel.press.ledger import Ledger
from sarvel.press.render import Rendered, available_workers, remove, render, work_to_do
from sarvel.press.work import Made


def run(options: argparse.Namespace) -> int:
    """Renders; exit code 1 if a master or page needs the user."""
    speaker = Speaker.of(options)
    plan = plan_of(options)
    with ledger_of(plan) as ledger:
        site = read_site(plan, ledger)
        rendered = press(plan, site.edition, ledger, options.workers, speaker)
        site = settled(site)
        faults = [*site.faults, *rendered.faults.values()]
        speaker.trouble([*faults, *site.warnings])
        speaker.notes(site.notes)
        speaker.result(told(rendered, site))
        speaker.document(
            rendered=as_json(rendered, site.left_out), faults=faults, warnings=site.warnings, notes=site.notes
        )
    return 1 if faults or site.warnings else 0


def press(plan: Plan, edition: Edition, ledger: Ledger, workers: int | None, speaker: Speaker) -> Rendered:
    """Renders what is missing of an Edition, with progress."""
    works, kept = work_to_do(edition, plan.masters_folder, plan.output, ledger)
    with speaker.progress("rendering", sum(work.count for work in works)) as advance:

        def done(made: Made) -> None:
            ledger.remember(((file.name, file.size, file.digest) for file in made.files), made.findings)
            advance(len(made.files))
            speaker.step(f"{made.key}: {len(made.files)} files made")

        return render(works, kept, workers or available_workers(), done)


def settled(site: Site) -> Site:
    """The site now that files were made; those of formats that do not pay are taken out of the output folder."""
    site = site.afresh()
    remove(site.left_out, site.plan.output)
    return site


def told(rendered: Rendered, site: Site) -> str:
    """What a run of the press came to, in a sentence."""
    made = as_json(rendered, site.left_out)["made"]
    return f"{len(made)} files made, {rendered.kept} were there already, in {site.plan.output}"


class AsJson(TypedDict):
    """What a run of the press came to: names of the files it made, and how many stood there already."""

    made: list[str]
    kept: int
    left_out: list[str]


def as_json(rendered: Rendered, left_out: Iterable[LeftOut]) -> AsJson:
    """What a run of the press came to, less the files of formats that do not pay."""
    gone = {file.name for one in left_out for file in one.renditions}
    made = {file.name for file in rendered.made}
    return AsJson(made=sorted(made - gone), kept=rendered.kept, left_out=sorted(made & gone))
