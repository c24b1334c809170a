"""`sarvel start`: drafts sarvel.toml from the images, pages and stylesheets that are there."""

from __future__ import annotations

import argparse
import contextlib
import json
import os
import tomllib
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.browser.links import address_on_this_machine
from sarvel.cli.ui.console import Console
from sarvel.core.amounts import counted
from sarvel.errors import PlanError
from sarvel.files.atomic import write_whole
from sarvel.notices import Kind, Notice
from sarvel.plan.draft import drafted, left_over
from sarvel.plan.find import FILE_NAME
from sarvel.plan.json_schema import FILE_NAME as SCHEMA
from sarvel.plan.json_schema import NAMED, TITLE, schema_text
from sarvel.plan.read import plan_from
from sarvel.tools.start.draft import Measures, draft_of
from sarvel.tools.start.running import ImageTag, pages_of_built, served
from sarvel.tools.start.trial import unmet
from sarvel.tools.start.ways import Ground, ground_of
from sarvel.tools.survey import survey

if TYPE_CHECKING:
    from sarvel.core.survey.behaviour import Behaviour
    from sarvel.tools.start.measured import Place


def run(options: argparse.Namespace) -> int:
    """Drafts; exit code 1 if something is left that needs the user."""
    console = Console.of(options)
    root = Path(options.folder)
    file = root / FILE_NAME
    if not root.is_dir():
        raise PlanError.at(root, "there is no such folder", "name the site's")
    if os.path.lexists(file):
        raise PlanError.at(file, "is there already and stays as it is", "rename it to have another drafted")
    at = address_on_this_machine(options.at) if options.at else None
    ground = ground_of(root, options.way, Path(options.built) if options.built else None)
    console.result(ground.reason)
    found = survey([ground.folder], None, console, ground.project, ground.left_out, ground.dialects, weighs=False)
    faults: list[Notice] = []
    with contextlib.ExitStack() as stack:
        measures = None
        if at or (options.built and not ground.built):
            site = at or stack.enter_context(served(Path(options.built)))
            begin = ["/"] if at else pages_of_built(Path(options.built))
            measures = _measuring_at(site, begin, options.driver, console, faults)
        elif options.measure:
            measures = _measuring(root, ground, options.driver, console, faults)
        draft = draft_of(found, root, ground, measures)
    text = drafted(draft)
    if _has_schema(root / SCHEMA):
        text = NAMED + text
    try:
        plan = plan_from(tomllib.loads(text.encode().decode()), file, {})
    except UnicodeEncodeError:
        raise PlanError.at(
            root, "the name of a folder or an image is not UTF-8, which no plan can say", "rename it"
        ) from None
    lines = (Notice(Kind.LEFT_OUT, "", line, severity="note") for line in left_over(draft, file.name))
    left = [*faults, *lines, *unmet(draft, plan)]
    write_whole(file, text.encode())
    if text.startswith(NAMED):
        write_whole(root / SCHEMA, schema_text().encode())
    pages, images = counted(len(found.pages), "page"), counted(draft.count, "image")
    console.result(
        f"{file} drafted: {counted(len(draft.groups) + len(draft.pictures), 'slot')} for {images} of {pages}"
    )
    build = f"{ground.kind.command} && sarvel build" if ground.built and ground.kind.command else "sarvel build"
    console.result(f"Run {build}" if measures else f"Look at sizes in each slot, then run {build}")
    console.notes(left)
    console.document(file=file.as_posix(), kind=ground.kind.name, way=ground.way, plan=text, left=left)
    return console.code(failed=console.strict and bool(left))


def _has_schema(file: Path) -> bool:
    """Tells whether the schema may are in a place: nothing is there, or one that an earlier version wrote."""
    if file.is_symlink():
        return False
    try:
        return bool(json.loads(file.read_bytes()).get("title") == TITLE)
    except FileNotFoundError:
        return True
    except (OSError, ValueError, AttributeError):
        return False


def _measuring(root: Path, ground: Ground, driver: str | None, console: Console, faults: list[Notice]) -> Measures:
    """A function that measures images of a site; obstacles on single pages go to `faults`."""
    from sarvel.tools.start.measured import behaviours

    def measured(
        places: Sequence[Place], larger: Sequence[Place], _tags: Sequence[ImageTag]
    ) -> Mapping[Place, Behaviour]:
        found, pages = behaviours(places, larger, [*ground.project.tops, root], ground.project.base, driver, console)
        faults.extend([*pages.faults, *pages.notes])
        return found

    return measured


def _measuring_at(
    address: str, begin: Sequence[str], driver: str | None, console: Console, faults: list[Notice]
) -> Measures:
    """A function that measures images at a running site; obstacles on single pages go to `faults`."""
    from sarvel.tools.start.running import behaviours_at

    def measured(
        _places: Sequence[Place], _larger: Sequence[Place], tags: Sequence[ImageTag]
    ) -> Mapping[Place, Behaviour]:
        found, troubles = behaviours_at(address, begin, tags, driver, console)
        faults.extend(troubles)
        return found

    return measured
