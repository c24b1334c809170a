"""`sarvel build`: renders, weaves, checks, and says what came of it."""

from __future__ import annotations

import argparse
from dataclasses import dataclass
from pathlib import Path

from sarvel.cli import check, render, weave
from sarvel.cli.checked import check_files, pages_of_plan
from sarvel.cli.site import Site, ledger_of, plan_of, read_site
from sarvel.cli.speak import Speaker, percent, size
from sarvel.core.css.device import Device
from sarvel.core.edition import Picture
from sarvel.core.rendition import Rendition
from sarvel.plan.read import Plan

# The two ends of the built-in audience: the narrowest viewport that is common, and the widest.
PHONE = Device(360, 740, 3)
DESKTOP = Device(1920, 1080, 1)


@dataclass(frozen=True)
class Row:
    """One picture in the summary.

    Attributes:
        picture: the picture.
        files: how many files were made of it.
        total: their bytes together.
        fetched: what each device fetches, and its bytes.
    """

    picture: Picture
    files: int
    total: int
    fetched: dict[Device, tuple[Rendition, int]]

    def saving(self, device: Device) -> float:
        """The share of the master's bytes that a device is spared; negative if it fetches more."""
        return 1 - self.fetched[device][1] / self.picture.master.size


def run(options: argparse.Namespace) -> int:
    """Builds; exit code 1 if something needs the user."""
    return build(plan_of(options), options)


def build(plan: Plan, options: argparse.Namespace, *, table: bool = True) -> int:
    """Does the whole job of a plan and tells of it, with a table of all pictures or without."""
    speaker = Speaker.of(options)
    with ledger_of(plan) as ledger:
        return _build(read_site(plan, ledger), options, speaker, table=table)


def _build(site: Site, options: argparse.Namespace, speaker: Speaker, *, table: bool) -> int:
    plan = site.plan
    site, rendered = render.press(site, options, speaker)
    weaver = weave.weaver_of(site)
    results = [weaver(page) for page in site.pages]
    pages = weave.write_all(results, weaver, site, speaker)
    if options.prune:
        rendered.pruned = render.pruned(site, rendered, options, speaker)
    rows = [_row(picture, plan.output) for pair, picture in site.edition.pictures.items() if pair not in site.unmade()]
    faults = [*site.faults, *rendered.faults.values(), *pages.faults]
    if table:
        _tell(speaker, rows)
    speaker.result(render.told(rendered, site))
    speaker.result(weave.told(pages, "woven"))
    checked, unreadable = check_files(pages_of_plan(plan), plan)
    faults = list(dict.fromkeys([*faults, *unreadable]))
    check.tell(checked, speaker)
    speaker.result(check.summed(checked))
    speaker.trouble([*faults, *site.warnings])
    speaker.notes(site.notes)
    grave = check.has_grave(checked, check.SEVERITY)
    if grave and speaker.quiet:
        speaker.trouble([f"{check.summed(checked)}; run sarvel check to see them"])
    speaker.document(
        pictures=[_as_json(row) for row in rows],
        rendered=render.as_json(rendered, site.left_out),
        pages=weave.as_json(pages),
        faults=faults,
        warnings=site.warnings,
        notes=site.notes,
        findings=[check.as_json(page, one) for page in checked for one in page.findings],
    )
    return 1 if faults or site.warnings or grave else 0


def _row(picture: Picture, output: Path) -> Row:
    weights = {rendition.name: (output / rendition.name).stat().st_size for rendition in picture.renditions()}
    fetched = {device: picture.fetched(device) for device in (PHONE, DESKTOP)}
    return Row(
        picture,
        len(weights),
        sum(weights.values()),
        {device: (rendition, weights[rendition.name]) for device, rendition in fetched.items()},
    )


def _tell(speaker: Speaker, rows: list[Row]) -> None:
    if not rows or speaker.json or speaker.quiet:
        return
    from rich import box  # noqa: PLC0415 - slow to load
    from rich.table import Table  # noqa: PLC0415 - as above

    table = Table(box=box.SIMPLE_HEAD, pad_edge=False)
    table.add_column("master", overflow="fold")
    table.add_column("slot", style="dim")
    table.add_column("weighs", justify="right")
    table.add_column("files", justify="right")
    for device, label in ((PHONE, "phone"), (DESKTOP, "desktop")):
        table.add_column(f"{label}\n{device}", justify="right", no_wrap=True)
        table.add_column("\nsaves", justify="right", style="green", no_wrap=True)
    for row in rows:
        cells = [
            cell for device in (PHONE, DESKTOP) for cell in (size(row.fetched[device][1]), percent(row.saving(device)))
        ]
        table.add_row(
            row.picture.master.key, row.picture.slot.name, size(row.picture.master.size), str(row.files), *cells
        )
    table.add_section()
    whole = sum(row.picture.master.size for row in rows)
    sums = [sum(row.fetched[device][1] for row in rows) for device in (PHONE, DESKTOP)]
    totals = [cell for total in sums for cell in (size(total), percent(1 - total / whole))]
    table.add_row("all, each once", "", size(whole), str(sum(row.files for row in rows)), *totals, style="bold")
    speaker.rich(table)


def _as_json(row: Row) -> dict[str, object]:
    return {
        "slot": row.picture.slot.name,
        "master": row.picture.master.key,
        "master_bytes": row.picture.master.size,
        "files": row.files,
        "bytes": row.total,
        "fetched": {
            str(device): {"file": rendition.name, "bytes": weight, "saving": round(row.saving(device), 4)}
            for device, (rendition, weight) in row.fetched.items()
        },
    }
