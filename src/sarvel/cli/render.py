"""`sarvel render`: makes the renditions that are missing or out of date."""

from __future__ import annotations

import argparse
import fnmatch
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import TypedDict

from sarvel.cli.press import alone, estimate, run_press
from sarvel.cli.site import Site, ledger_of, plan_of, read_site
from sarvel.cli.speak import Speaker
from sarvel.cli.unchanged import finding, now
from sarvel.core.edition import Edition
from sarvel.core.settle import LeftOut
from sarvel.errors import PlanError
from sarvel.press.render import Rendered, Todo, prune, remove, standing, work_to_do


def run(options: argparse.Namespace) -> int:
    """Renders; exit code 1 if a master or page needs the user."""
    speaker = Speaker.of(options)
    started = now()
    plan = plan_of(options)
    with ledger_of(plan, writes=not options.dry_run) as ledger:
        site = read_site(plan, ledger)
        if options.dry_run:
            return _foretell(site, options, speaker)
        site, rendered = press(site, options, speaker)
        if options.prune:
            rendered.pruned = pruned(site, rendered, options, speaker)
        faults = [*site.faults, *rendered.faults.values()]
        speaker.trouble([*faults, *site.warnings])
        speaker.notes(site.notes)
        speaker.result(told(rendered, site))
        document: dict[str, object] = {
            "rendered": as_json(rendered, site.left_out),
            "faults": faults,
            "warnings": site.warnings,
            "notes": site.notes,
        }
        speaker.document(**document)
        if not (faults or site.warnings or options.only):
            names = {one.name for picture in site.edition.pictures.values() for one in picture.renditions()}
            again = Rendered(kept=len(names))
            document["rendered"] = as_json(again, site.left_out)
            said = (list(site.notes), told(again, site), document)
            ledger.remember([], finding(options, site.files_read(), site.folders_read(), plan.output, started, said))
    return 1 if faults or site.warnings else 0


def press(site: Site, options: argparse.Namespace, speaker: Speaker) -> tuple[Site, Rendered]:
    """Renders what is missing, with progress, while nobody else does; then settles.

    Returns:
        The site now that files were made, and what was made.
    """
    plan, ledger = site.plan, site.ledger
    with alone(plan.output, speaker):
        todo = to_do(site, options)
        speaker.trouble(_told_of_altered(todo, plan.output))
        rendered = run_press(todo, plan.output, ledger, options.workers, speaker)
        site = settled(site)
    return site, rendered


def _told_of_altered(todo: Todo, output: Path) -> Iterator[str]:
    if count := len(todo.altered):
        some = ", ".join(todo.altered[:3]) + (", …" if count > 3 else "")
        are = (
            "1 file is not what was written there, and is"
            if count == 1
            else f"{count} files are not what was written there, and are"
        )
        yield f"{output}: {are} made again: {some}"


def pruned(site: Site, rendered: Rendered, options: argparse.Namespace, speaker: Speaker) -> list[str]:
    """Removes renditions that neither the plan makes nor a page names any more, and says their names."""
    plan = site.plan
    unread = "some masters or pages could not be read" if site.faults or rendered.faults else ""
    if why := unread or ("--only looks at a part of the plan" if options.only else ""):
        speaker.notes([f"{plan.output}: nothing pruned, since {why}"])
        return []
    with alone(plan.output, speaker):
        return prune(site.edition, plan.output, site.ledger, site.names_in_pages())


def to_do(site: Site, options: argparse.Namespace) -> Todo:
    """What the options ask to be made.

    Raises:
        PlanError: they name no slot or master of the plan.
    """
    edition = site.edition
    if options.only:
        chosen = {pair: one for pair, one in edition.pictures.items() if any(map(_matcher(pair), options.only))}
        if not chosen:
            raise PlanError(f"--only {options.only[0]}: no slot and no master of the plan's pages is called so")
        edition = Edition(chosen)
    return work_to_do(
        edition, site.plan.masters_folder, site.plan.output, site.ledger, force=options.force, verify=options.verify
    )


def _matcher(pair: tuple[str, str]) -> Callable[[str], bool]:
    return lambda pattern: any(fnmatch.fnmatchcase(name, pattern) for name in (*pair, pair[1].rsplit("/", 1)[-1]))


def _foretell(site: Site, options: argparse.Namespace, speaker: Speaker) -> int:
    """Says what would be made, and how long that may take going by the last run."""
    todo = to_do(site, options)
    names = {work.key: [one.name for cut in work.cuts for one in cut.renditions] for work in todo.works}
    for work in todo.works:
        speaker.result(f"{work.key}: {work.count} files, {work.cost / 1e6:.0f} megapixels")
        for name in names[work.key]:
            speaker.step(name)
    seconds = estimate(todo, site.ledger, options.workers)
    about = f"; about {seconds:.0f} s, going by the last run" if seconds is not None and todo.works else ""
    copies = f", {len(todo.copies)} of them copied" if todo.copies else ""
    speaker.result(f"{todo.count} files to make{copies}, {todo.kept} are there already{about}")
    speaker.trouble([*site.faults, *site.warnings])
    speaker.document(
        to_make=names, to_copy=todo.copies, kept=todo.kept, seconds=seconds, faults=site.faults, warnings=site.warnings
    )
    return 1 if site.faults or site.warnings else 0


def settled(site: Site) -> Site:
    """The site now that files were made; those of formats that do not pay are taken out of the output folder."""
    site = site.afresh()
    gone = [one.name for left in site.left_out for one in left.renditions]
    there = standing(site.plan.output).keys() & set(gone)
    remove(there - site.names_in_pages() if there else (), site.plan.output)
    return site


def told(rendered: Rendered, site: Site) -> str:
    """What a run of the press came to, in a sentence."""
    made = as_json(rendered, site.left_out)["made"]
    pruned = f", {len(rendered.pruned)} pruned" if rendered.pruned else ""
    return f"{len(made)} files made, {rendered.kept} were there already{pruned}, in {site.plan.output}"


class AsJson(TypedDict):
    """What a run of the press came to, as docs/json.md has it."""

    made: list[str]
    kept: int
    left_out: list[str]
    pruned: list[str]
    altered: list[str]


def as_json(rendered: Rendered, left_out: Iterable[LeftOut]) -> AsJson:
    """What a run of the press came to, less the files of formats that do not pay."""
    gone = {file.name for one in left_out for file in one.renditions}
    made = {file.name for file in rendered.made}
    return AsJson(
        made=sorted(made - gone),
        kept=rendered.kept,
        left_out=sorted(made & gone),
        pruned=list(rendered.pruned),
        altered=list(rendered.altered),
    )
