"""`sarvel plan`: what will be made and why, before anything is made."""

from __future__ import annotations

import argparse
import json
from collections.abc import Mapping
from dataclasses import replace

from sarvel.cli.commands.quality_table import as_json, quality_table
from sarvel.cli.plans import plan_of
from sarvel.cli.ui.console import Console, warn
from sarvel.cli.ui.styles import GOOD, WARNING
from sarvel.cli.ui.table import Column, Table
from sarvel.core.amounts import counted, duration, weight
from sarvel.core.css.device import Device
from sarvel.core.edition.compose import SUBJECT_LOST, Crop, Edition, Picture
from sarvel.core.edition.encoding import EncoderNumbers
from sarvel.core.edition.promise import promise_of, shortfalls
from sarvel.core.layout.ladder import WASTE
from sarvel.core.model import ONLY_CROP, Slot
from sarvel.errors import PlanError
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_entries import known_numbers
from sarvel.notices import FEWEST
from sarvel.pipeline.forecast import Forecast, forecast
from sarvel.pipeline.page_sums import DESKTOP, PHONE
from sarvel.pipeline.site import Site, ledger_of, read_site
from sarvel.plan.messages import nearest
from sarvel.plan.read import Plan

_SMALL = 0.1  # excess that no one need think about
_END = {"": "", "master": " master", "widest": " widest", "widths": " widths"}  # what ends a ladder


def run(options: argparse.Namespace) -> int:
    """Shows the plan; exit code 1 if it loses a subject or something cannot be read."""
    console = Console.of(options)
    if options.schema:
        return _schema(console)
    plan = plan_of(options)
    slots = [_slot(plan, name) for name in options.slots or plan.slots]
    with ledger_of(plan, warn, creates=False) as ledger:
        return _run(read_site(plan, ledger), ledger, slots, options, console)


def _schema(console: Console) -> int:
    from sarvel.plan.json_schema import schema_text  # few calls need it

    console.result(schema_text().rstrip())
    console.document(schema=json.loads(schema_text()))
    return 0


def _run(site: Site, ledger: Ledger, slots: list[Slot], options: argparse.Namespace, console: Console) -> int:
    plan, names = site.plan, {slot.name for slot in slots}
    shown = [picture for picture in site.edition.pictures.values() if picture.slot.name in names]
    numbers = known_numbers(ledger, site.edition)
    predicted = forecast(site, ledger, names)
    for slot in slots if console.is_for_people else ():
        pictures = [picture for picture in shown if picture.slot.name == slot.name]
        if options.quality:
            table = quality_table(pictures, numbers)
        else:
            table = _reasons(pictures) if options.why else _table(pictures, predicted)
        _tell(console, slot, table if pictures else None)
    files = sum(1 for picture in shown for _ in picture.renditions())
    masters = counted(len({picture.master.key for picture in shown}), "master")
    console.result(f"{counted(files, 'file')} of {masters}; {_predicted(predicted, plan)}")
    if shown:
        console.result(_weighing(predicted))
    drawings = sorted({key for page in site.pages for key in page.drawings})
    if drawings:
        more = f" and {len(drawings) - 1} more" if len(drawings) > 1 else ""
        console.result(f"nothing to make for {drawings[0]}{more}: SVG is sharp at any width")
    told = [*shortfalls(shown), *(one for picture in shown for one in picture.notices)]
    if options.why:
        pairs = {(one.slot.name, one.master.key) for one in shown}
        left_out = [one.notice for one in site.left_out if (one.slot, one.master) in pairs]
        told = [one if one.share else replace(one, share=None) for one in (*told, *left_out)]
    notices = list(dict.fromkeys(one.within(plan.file) for one in told))
    warnings = [one for one in notices if one.severity == "warning"]
    notes = [one for one in notices if one.severity == "note"]
    console.trouble([*site.faults, *warnings])
    console.notes(notes)
    console.document(
        slots=[_as_json(slot, site.edition, numbers) for slot in slots],
        forecast=_forecast_as_json(predicted),
        drawings=drawings,
        faults=site.faults,
        warnings=warnings,
        notes=notes,
    )
    return console.code(failed=bool(site.faults))


def _predicted(told: Forecast, plan: Plan) -> str:
    """The files to make and the time that takes, in words."""
    if not plan.makes_files:
        return "each is made when it is asked for" + (", elsewhere" if plan.delivery == "elsewhere" else "")
    if not told.to_make:
        return "all are there"
    by = "an earlier run" if told.by_run else "the pixels"
    return f"{told.to_make} to make, in about {duration(told.seconds)}, going by {by}"


def _weighing(told: Forecast) -> str:
    """The bytes that a page fetches, in words."""
    count = max(1, told.sums.count)
    phone, desktop = (weight(told.sums.fetched[device] / count) for device in (PHONE, DESKTOP))
    who = "a page fetches" if told.sums.count else "all together fetch"
    about = f"{'about ' if told.guessed else ''}{phone} on a phone, {desktop} on a desktop"
    return f"{who} {about}{', on average' if count > 1 else ''}"


def _forecast_as_json(told: Forecast) -> dict[str, object]:
    return {
        "to_make": told.to_make,
        "kept": told.kept,
        "seconds": told.seconds,
        "seconds_by": "an earlier run" if told.by_run else "the pixels",
        "pages": told.sums.count,
        "masters_bytes": told.sums.masters,
        "bytes": {str(device): total for device, total in told.sums.fetched.items()},
        "bytes_guessed": told.guessed,
    }


def _slot(plan: Plan, name: str) -> Slot:
    if name not in plan.slots:
        raise PlanError.at(plan.file, f"no slot '{name}'", nearest(name, plan.slots))
    return plan.slots[name]


def _tell(console: Console, slot: Slot, table: Table | None) -> None:
    from rich.text import Text

    densities = " ".join(f"{density:g}" for density in slot.densities)
    first = f"loading {slot.loading}{', first images eager' if slot.opens_eager else ''}"
    first = first if slot.use in ("picture", "background") else f"use {slot.use}"
    console.show(
        Text.assemble(
            (slot.name, "bold"),
            f"  {first} · {' '.join(slot.formats)} · quality {_quality(slot)} · densities {densities}",
        )
    )
    constant = slot.shown.constant()
    said = f"{constant:g} px wide everywhere" if constant is not None else _sizes(slot)
    said += ": density descriptors" if constant is not None and slot.use == "picture" else ""
    console.show(Text.assemble(("  sizes  ", "dim"), said))
    if slot.measured:
        pages = ", ".join(slot.measured.pages)
        console.show(Text.assemble(("  measured  ", "dim"), f"{slot.measured.on} on {pages}"))
    console.show(table or Text("  no page asks for it\n", style="dim"))


def _quality(slot: Slot) -> str:
    numbers = "".join(f", {name} {number}" for name, number in slot.finish.quality.items())
    return f"{slot.finish.name} (likeness {slot.finish.likeness:g}{numbers})"


def _sizes(slot: Slot) -> str:
    return slot.shown.sizes(lazy=slot.auto_sizes and slot.loading == "lazy")


def _table(pictures: list[Picture], told: Forecast) -> Table:
    """What is made of each master: crops, widths, files, and what a phone and a desktop fetch."""
    table = Table(
        [
            Column("master", "name"),
            Column("crop"),
            Column("widths, px", "list"),
            Column("files", "number"),
            Column("phone", "number"),
            Column("desktop", "number"),
            Column("", style=WARNING),
        ]
    )
    for picture in pictures:
        for i, crop in enumerate(picture.crops):
            table.add(
                *_named(picture, crop, first=i == 0),
                " ".join(map(str, crop.ladder.widths)),
                str(sum(len(ladder) for ladder in crop.renditions.values())),
                *(_fetched(picture, crop, device, told) for device in (PHONE, DESKTOP)),
                _wrong(crop),
            )
    return table


def _named(picture: Picture, crop: Crop, *, first: bool) -> tuple[str, str]:
    """The master, where it is the first of its crops, and the crop."""
    kind = " (graphic)" if crop.drawn else ""
    name = (crop.rule.name or ONLY_CROP) + (" ?" if crop.guessed is not None else "")
    return picture.master.key + kind if first else "", name


def _fetched(picture: Picture, crop: Crop, device: Device, told: Forecast) -> str:
    """The bytes of the file that a device fetches, if it meets this crop."""
    if picture.crop_on(device) is not crop:
        return ""
    return weight(told.weights.get(picture.fetched(device).name, 0))


def _wrong(crop: Crop) -> str:
    """One word where something is wrong; the notices below have the rest."""
    soft, everybody = sum(one.share for one in crop.soft), sum(one.share for one in crop.visits)
    if crop.lost > SUBJECT_LOST:
        return "subject lost"
    return "soft" if soft >= FEWEST * everybody and crop.soft else ""


def _reasons(pictures: list[Picture]) -> Table:
    """How well the widths of each crop fit, and in comparison."""
    several = any(len(picture.crops) > 1 for picture in pictures)
    table = Table(
        [
            Column("master", "name"),
            Column("crop"),
            *([Column("viewports", spare=3)] if several else []),
            Column("crop, px", spare=2),
            Column("widths, px", "list"),
            Column("files", "list"),
            Column("excess", "number"),
            Column("worst\nsoft", "number"),
            Column("worst\nwaste", "number"),
            Column("evenly\nspread", "number", spare=1, style="dim"),
            Column("one\nfile", "number", spare=4, style="dim"),
        ]
    )
    for picture in pictures:
        for i, crop in enumerate(picture.crops):
            promise = promise_of(crop)
            table.add(
                *_named(picture, crop, first=i == 0),
                *([str(crop.viewports)] if several else []),
                f"{crop.box.width:.0f}×{crop.box.height:.0f} at {crop.box.left:.0f}, {crop.box.top:.0f}",
                _widths(crop),
                " ".join(f"{name} {len(ladder)}" for name, ladder in crop.renditions.items()),
                (_percent(crop.ladder.fitness.excess), GOOD if crop.ladder.fitness.excess <= _SMALL else WARNING),
                (_percent(promise.soft) + _END[promise.end], WARNING if promise.end else ""),
                (f"{promise.waste:.1f}×", WARNING if promise.waste > WASTE else ""),
                f"{_percent(crop.ladder.even.excess)} {crop.ladder.even.waste:.1f}×",
                _percent(crop.ladder.one_for_all.excess),
            )
    return table


def _widths(crop: Crop) -> str:
    """A ladder as a list."""
    return " ".join(map(str, crop.ladder.widths)) + (" soft" if crop.soft else "")


def _percent(share: float) -> str:
    return f"{share:.1%}" if 0 < share < 0.0995 else f"{share:.0%}"


def _as_json(slot: Slot, edition: Edition, numbers: Mapping[str, EncoderNumbers]) -> dict[str, object]:
    return {
        "slot": slot.name,
        "use": slot.use,
        "loading": slot.loading,
        "formats": list(slot.formats),
        "quality": slot.finish.name,
        "likeness": slot.finish.likeness,
        "densities": list(slot.densities),
        "sizes": "" if slot.shown.constant() is not None else _sizes(slot),
        "pictures": [
            {"master": picture.master.key, "width": picture.master.width, "height": picture.master.height}
            | {"crops": [_crop_as_json(crop, numbers) for crop in picture.crops]}
            for picture in edition.pictures.values()
            if picture.slot.name == slot.name
        ],
    }


def _crop_as_json(crop: Crop, numbers: Mapping[str, EncoderNumbers]) -> dict[str, object]:
    met = sum(visits.share for visits in crop.visits)
    promise = promise_of(crop)
    return {
        "crop": crop.rule.name,
        "media": crop.rule.media.css,
        "viewports": str(crop.viewports),
        "guessed": crop.guessed,
        "kind": "graphic" if crop.drawn else "photo",
        "formats": {name: as_json(ladder[0].encoding, numbers) for name, ladder in crop.renditions.items()},
        "box": crop.box.edges,
        "widths": list(crop.ladder.widths),
        "files": sum(len(ladder) for ladder in crop.renditions.values()),
        "sizes": crop.sizes,
        "excess": round(crop.ladder.fitness.excess, 6),
        "even_spread": round(crop.ladder.even.excess, 6),
        "one_for_all": round(crop.ladder.one_for_all.excess, 6),
        "worst_soft": round(promise.soft, 6),
        "worst_soft_on": str(promise.softest),
        "worst_soft_why": promise.end,
        "worst_waste": round(promise.waste, 6),
        "worst_waste_on": str(promise.wasteful),
        "widths_wanted": promise.rungs,
        "even_spread_waste": round(crop.ladder.even.waste, 6),
        "one_for_all_waste": round(crop.ladder.one_for_all.waste, 6),
        "soft": [str(visits.device) for visits in crop.soft],
        "soft_share": round(sum(visits.share for visits in crop.soft) / met, 6),
    }
