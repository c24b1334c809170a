"""`sarvel confirm --against`: pages and files of a deployed site, compared with the ones here."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from typing import TYPE_CHECKING

from sarvel.cli.ui.console import Console, warn
from sarvel.cli.ui.styles import BAD, GOOD
from sarvel.cli.ui.table import Column, Table
from sarvel.core.amounts import counted, weight
from sarvel.core.layout.audience import busiest
from sarvel.errors import PlanError
from sarvel.notices import Kind, Notice
from sarvel.pipeline.site import ledger_of, read_site
from sarvel.plan.read import Plan

if TYPE_CHECKING:
    from sarvel.tools.confirm.deployed import Deployed, DeployedPage


def run_against(options: argparse.Namespace, plan: Plan, console: Console) -> int:
    """Asks for everything; exit code 1 if something is otherwise than here.

    Raises:
        PlanError: the address is invalid, no page can be requested, or the extra is not installed.
    """
    try:
        from sarvel.tools.confirm.deployed import confirm_deployed
    except ImportError:
        raise PlanError.at(
            "", "sarvel confirm: needs an extra", "install it with pip install 'sarvel[browser]'"
        ) from None
    devices = options.device or [one.device for one in busiest(plan.audience)]
    with ledger_of(plan, warn, creates=False) as ledger:
        site = read_site(plan, ledger, as_it_stands=True)
    found = confirm_deployed(site, options.against, options.pages, devices, console)
    console.show(_table(found))
    faults = [*_page_faults(found), *_file_faults(found), *found.faults]
    console.result(_summed(found))
    console.trouble(faults)
    console.notes(found.notes)
    console.document(
        pages=[_page_as_json(one) for one in found.pages],
        files=[{"url": one.url, "bytes": one.weight, "faults": one.faults} for one in found.files],
        faults=found.faults,
        notes=found.notes,
    )
    return console.code(failed=bool(faults))


def _table(found: Deployed) -> Table:
    table = Table(
        [Column("page", "name", spare=1), Column("images", "number"), Column("as here", "number"), Column("")]
    )
    for one in found.pages:
        if one.problem:
            table.add(one.url, "", "", (one.problem, BAD))
            continue
        alike = max(0, one.images - len(one.others))
        table.add(one.url, str(one.images), (str(alike), BAD if one.others else GOOD), "")
    return table


def _summed(found: Deployed) -> str:
    total = sum(one.weight for one in found.files)
    bad = sum(bool(one.faults) for one in found.files)
    silent = sum(bool(one.problem) for one in found.pages)
    if silent == len(found.pages):
        return f"{counted(silent, 'page')} asked for, none can be looked at"
    told = f"{bad} otherwise than they should be" if bad else "all as they should be"
    return f"{counted(len(found.pages), 'page')} and {counted(len(found.files), 'file')} of {weight(total)}: {told}"


def _page_faults(found: Deployed) -> Iterator[Notice]:
    for page in found.pages:
        if page.problem:
            yield Notice(Kind.DIFFERS, page.url, page.problem, "deploy it, or mend the address")
        for name in page.others:
            devices = page.strayed.get(name, ())
            others = f", as {len(devices) - 1} others" if devices[1:] else ""
            more = f"; {devices[0]} gets another file{others}" if devices else ""
            text = f"'{name}' is not woven there as here{more}"
            yield Notice(Kind.DIFFERS, page.url, text, "deploy the page again")


def _file_faults(found: Deployed) -> Iterator[Notice]:
    return (Notice(Kind.DIFFERS, one.url, fault) for one in found.files for fault in one.faults)


def _page_as_json(page: DeployedPage) -> dict[str, object]:
    strayed = {name: [str(one) for one in devices] for name, devices in page.strayed.items()}
    return {"url": page.url, "images": page.images, "others": page.others, "strayed": strayed, "problem": page.problem}
