"""`sarvel proof`: a contact sheet of every cut with its subject, and the same facts as a table."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.cli.console import Console, warn
from sarvel.cli.plans import plan_of
from sarvel.cli.saving import rewritten
from sarvel.cli.table import Column, Table
from sarvel.core.crop.place import Box
from sarvel.core.edition.compose import SUBJECT_LOST, Cut, Picture
from sarvel.core.facts import FoundSubject, MasterFacts
from sarvel.core.model import ONLY_CUT, Master, Slot
from sarvel.errors import MasterError
from sarvel.job.master_facts import facts_of_master, subject_of
from sarvel.job.site import Site, ledger_of, read_site
from sarvel.job.targets import check_output
from sarvel.plan.save import subject_in_toml, with_subjects
from sarvel.press.atomic import write_whole
from sarvel.press.ledger import Ledger

if TYPE_CHECKING:
    from sarvel.core.pixels.resample import Pixels

Row = tuple[Slot, Cut]


def run(options: argparse.Namespace) -> int:
    """Draws the sheet; exit code 1 if a cut loses its subject or a master cannot be read."""
    console = Console.of(options)
    plan = plan_of(options)
    with ledger_of(plan, warn, creates=False) as ledger:
        site = read_site(plan, ledger)
        if options.suggest or options.save:
            return _suggest(site, ledger, console, save=options.save)
        return _run(site, options, console)


def _run(site: Site, options: argparse.Namespace, console: Console) -> int:
    rows = _rows(site)
    faults = list(site.faults)
    check_output(site.plan, Path(options.output), site.files_read())
    written = _draw(rows, site, Path(options.output), faults, console, each=options.each)
    _tell(console, rows)
    for file in written:
        console.result(f"drawn: {file}")
    console.trouble([*faults, *site.warnings])
    console.notes(site.notes)
    console.document(
        sheets=[str(file) for file in written],
        cuts=[_as_json(master, *row) for master, some in rows.items() for row in some],
        faults=faults,
        warnings=site.warnings,
        notes=site.notes,
    )
    return 1 if faults or site.warnings else 0


def _suggest(site: Site, ledger: Ledger, console: Console, *, save: bool) -> int:
    """Finds subjects for masters that the plan gives none; prints them, and saves them if asked."""
    plan = site.plan
    keys = dict.fromkeys(cut.source.key for picture in site.edition.pictures.values() for cut in picture.cuts)
    lacking = [key for key in keys if not (said := plan.masters.get(key, Master())).subjects and not said.find]
    found: dict[str, FoundSubject] = {}
    faults = list(site.faults)
    with console.progress("looking", len(lacking)) as advance:
        for key in lacking:
            try:
                found[key] = subject_of(plan, facts_of_master(plan, key, ledger), ledger)
            except MasterError as error:
                faults.append(str(error))
            advance(1, key)
    for key, guess in found.items():
        console.result(f'[masters."{key}"]\nsubject = {subject_in_toml(guess.box)}  # guessed, {guess.sure:.0%} sure\n')
    if save and found:
        boxes = {key: guess.box for key, guess in found.items()}
        rewritten(plan.file, lambda text: with_subjects(text, boxes))
    console.result(f"{len(found)} subjects {'saved in' if save else 'suggested for'} {plan.file}")
    console.trouble(faults)
    subjects = {key: {"subject": _edges(guess.box), "sure": round(guess.sure, 3)} for key, guess in found.items()}
    console.document(subjects=subjects, saved=save, faults=faults)
    return 1 if faults else 0


def _edges(box: Box) -> list[float]:
    return [box.left, box.top, box.right, box.bottom]


def _rows(site: Site) -> dict[MasterFacts, list[Row]]:
    """The cuts of each master in reading order: slots as the plan has them, cuts from the narrowest viewports up."""
    order = list(site.plan.slots)
    pictures: list[Picture] = sorted(site.edition.pictures.values(), key=lambda picture: order.index(picture.slot.name))
    rows: dict[MasterFacts, list[Row]] = {}
    for picture in pictures:
        rows.setdefault(picture.master, []).extend((picture.slot, cut) for cut in _from_narrow_to_wide(picture))
    return rows


def _from_narrow_to_wide(picture: Picture) -> list[Cut]:
    return sorted(picture.cuts, key=lambda cut: cut.viewports.least)


def _draw(
    rows: dict[MasterFacts, list[Row]], site: Site, output: Path, faults: list[str], console: Console, *, each: bool
) -> list[Path]:
    from sarvel.press.decode import read_pixels
    from sarvel.report.contact_sheet import Shot, as_png, draw_panels

    panels = []
    written: list[Path] = []
    with console.progress("drawing", len(rows)) as advance:
        for master, some in rows.items():
            pixels: dict[str, Pixels] = {}
            try:
                for key in {master.key, *(cut.source.key for _, cut in some)}:
                    pixels[key] = read_pixels(site.plan.masters_folder / key, key)
            except MasterError as error:
                faults.append(str(error))
                continue
            shots = [Shot(slot, cut, pixels[cut.source.key]) for slot, cut in some]
            drawn = draw_panels(master, pixels[master.key], shots)
            if each:
                written.append(output.with_name(f"{output.stem}-{Path(master.key).stem}{output.suffix}"))
                write_whole(written[-1], as_png(drawn))
            panels += drawn
            advance(1, key)
    if panels and not each:
        write_whole(output, as_png(panels))
        written.append(output)
    return written


def _tell(console: Console, rows: dict[MasterFacts, list[Row]]) -> None:
    if not console.is_for_people or not rows:
        return
    table = Table(
        [
            Column("master", "name"),
            Column("slot"),
            Column("cut"),
            Column("ratio", "number"),
            Column("zoom", "number"),
            Column("crop, px", spare=1),
            Column("subject"),
        ]
    )
    for master, some in rows.items():
        for i, (slot, cut) in enumerate(some):
            table.add(
                "" if i else master.key,
                slot.name,
                cut.rule.name or ONLY_CUT,
                f"{cut.box.width / cut.box.height:.2f}",
                f"{cut.rule.zoom:g}",
                f"{cut.box.width:.0f}×{cut.box.height:.0f}",
                (_verdict(cut), "bold red" if cut.lost > SUBJECT_LOST else "yellow" if cut.soft else "green"),
            )
    console.show(table)


def _verdict(cut: Cut) -> str:
    if cut.lost > SUBJECT_LOST:
        return f"{cut.lost:.0%} lost"
    kept = "in view" if cut.subjects else "none named"
    return f"{kept}, too small" if cut.soft else kept


def _as_json(master: MasterFacts, slot: Slot, cut: Cut) -> dict[str, object]:
    return {
        "master": master.key,
        "slot": slot.name,
        "cut": cut.rule.name or ONLY_CUT,
        "from": cut.source.key,
        "ratio": cut.box.width / cut.box.height,
        "zoom": cut.rule.zoom,
        "box": _edges(cut.box),
        "guessed": cut.guessed,
        "lost": round(cut.lost, 6),
        "soft": bool(cut.soft),
    }
