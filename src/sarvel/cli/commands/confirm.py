"""`sarvel confirm`: pages before and after weaving in a real browser: what moved, what each device fetched, how soon."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from pathlib import Path

from sarvel.browser.links import address_on_this_machine
from sarvel.browser.page_state import SLOW
from sarvel.cli.commands.against import run_against
from sarvel.cli.plans import plan_of
from sarvel.cli.ui.console import Console
from sarvel.cli.ui.styles import BAD, GOOD
from sarvel.cli.ui.table import Column, Table
from sarvel.core.amounts import counted, percent, weight
from sarvel.core.layout.audience import diverse, ends_of
from sarvel.errors import PlanError
from sarvel.notices import Kind, Notice
from sarvel.tools.confirm.built import confirm_built, confirm_running
from sarvel.tools.confirm.outcome import GROWN, Confirmed, ConfirmedSite
from sarvel.tools.confirm.woven import confirm

_MOST = 6  # viewports of the audience that are tried: each is a page opened twice
_WORST = 3  # boxes that are named of many


def run(options: argparse.Namespace) -> int:
    """Confirms; exit code 1 if anything is otherwise than the plan asks for, or a page could not be looked at."""
    console = Console.of(options)
    plan = plan_of(options)
    if options.against:
        return run_against(options, plan, console)
    devices = options.device or [one.device for one in diverse(plan.audience, plan.starts, _MOST)]
    if bool(options.before) != bool(options.after):
        raise PlanError.at("sarvel confirm", "--before and --after belong together", "name both sites")
    if options.before:
        sites = address_on_this_machine(options.before), address_on_this_machine(options.after)
        site = confirm_running(plan, sites, options.pages, devices, options.driver, console)
    elif options.built:
        before, after = (Path(folder) for folder in options.built)
        site = confirm_built(plan, (before, after), options.pages, devices, options.driver, console, every=options.all)
    else:
        site = confirm(plan, options.pages, devices, options.driver, console, every=options.all)
    if site.pages:
        console.show(_table(site))
    differences = [line for one in site.pages for line in _differences(one)]
    console.result(_summed(site, len(devices) if options.device else len(ends_of(plan.audience))))
    console.trouble([*differences, *site.faults])
    console.notes(site.notes)
    console.document(pages=[_as_json(one) for one in site.pages], faults=site.faults, notes=site.notes)
    return console.code(failed=bool(differences or site.faults))


def _summed(site: ConfirmedSite, devices: int) -> str:
    if not site.pages:
        return "no page was confirmed"
    speed, delay = SLOW
    pages = len({one.page for one in site.pages})
    tried = len({one.device for one in site.pages})
    of = f"{tried} of {devices} devices" if devices > tried else counted(tried, "device")
    bad = sum(not one.is_well for one in site.pages)
    told = f"{bad} not as the plan asks" if bad else "all as the plan asks"
    return (
        f"{counted(pages, 'page')} on {of}, before and after: {told}\n"
        f"largest: when the largest image in sight was there, on {speed // 1_000_000} Mbit/s and {delay} ms to the server"
    )


def _table(site: ConfirmedSite) -> Table:
    table = Table(
        [
            Column("page", "name"),
            Column("device"),
            Column("boxes"),
            Column("as predicted", "number"),
            Column("images\nbefore", "number"),
            Column("\nnow", "number"),
            Column("\nsaves", "number", style=GOOD),
            Column("shift\nbefore", "number"),
            Column("\nnow", "number"),
            Column("largest\nbefore", "number"),
            Column("\nnow", "number"),
        ]
    )
    last = None
    pages = {one.page for one in site.pages}
    by_name = len({page.name for page in pages}) == len(pages)
    without = {page for page in pages if not any(one.before.images for one in site.pages if one.page == page)}
    for one in site.pages:
        if one.page in without and one.is_well:
            continue
        was, now = one.before.weight, one.after.weight
        woven = sum(image.woven and bool(image.url) for image in one.after.images)
        table.add(
            ((by_name and one.page.name) or str(one.page)) if one.page != last else "",
            str(one.device),
            _boxes(one),
            (f"{one.fetched} of {woven}", BAD if one.strayed or one.broken else ""),
            weight(was),
            weight(now),
            percent(1 - now / was) if was else "",
            f"{one.shift:.2f}",
            (f"{one.after.shift:.2f}", BAD if one.shifts else ""),
            *(_seconds(time) for time in one.largest),
        )
        last = one.page
    well = {one.page for one in site.pages if one.page in without and one.is_well}
    if well:
        table.add(f"{counted(len(well), 'page')} without images", "", ("same", GOOD), *([""] * 8))
    return table


def _boxes(one: Confirmed) -> tuple[str, str]:
    if one.changes is None:
        return "other elements", BAD
    if one.changes:
        return f"{len(one.changes)} elsewhere", BAD
    return ("page grown", BAD) if abs(one.grown) > GROWN else ("same", GOOD)


def _seconds(time: float | None) -> str:
    return "" if time is None else f"{time / 1000:.1f} s"


def _differences(one: Confirmed) -> Iterator[Notice]:
    """Differences from the plan, as notices."""
    where = f"{one.page} on {one.device}"
    return (Notice(Kind.DIFFERS, where, text, cure) for text, cure in _told_apart(one))


def _told_apart(one: Confirmed) -> Iterator[tuple[str, str]]:
    """Pairs of text and cure."""
    if one.changes is None:
        yield "its elements are others than before", "look for scripts that build it from images"
    for change in (one.changes or [])[:_WORST]:
        yield str(change), "look at sizes and reserve of its slot"
    if one.changes and len(one.changes) > _WORST:
        most = max(change.most for change in one.changes)
        yield f"{len(one.changes) - _WORST} more boxes stand elsewhere, by up to {most:.0f} px", ""
    if abs(one.grown) > GROWN and not one.changes:
        yield f"the page is {one.grown:+.0f} px high", "look at the elements below its last image"
    yield from _of_images(one)
    for error in one.errors:
        yield f"its console says: {error}", "look at it in a browser"
    if one.shifts:
        shifts = f"its layout shifts by {one.after.shift:.2f}, by {one.shift:.2f} before"
        yield shifts, "look at reserve in the plan"


def _of_images(one: Confirmed) -> Iterator[tuple[str, str]]:
    """Pairs of text and cure, of single images."""
    for name in one.broken:
        yield f"{name} does not load any more", "run sarvel check"
    for url, wanted in one.strayed:
        yield f"{url} was fetched, not {wanted}", "run sarvel pick --why"
    for name, said, shown in one.misfits[:_WORST]:
        yield f"{name} is shown {shown} px wide, and its markup says {said} px", "run sarvel measure --save"
    for name in one.unheeded:
        cure = "have it set srcset, too, or let no slot's selectors match this image"
        yield f"a script sets the src of {name}, which does nothing to an image with srcset", cure


def _as_json(one: Confirmed) -> dict[str, object]:
    changes = one.changes or []
    moved = [{"element": one.before[0], "before": one.before[1], "after": one.after[1]} for one in changes]
    return {
        "page": one.page.as_posix(),
        "device": str(one.device),
        "well": one.is_well,
        "changes": None if one.changes is None else moved,
        "grown": one.grown,
        "broken": one.broken,
        "errors": one.errors,
        "fetched": [image.url.rpartition("/")[2] for image in one.after.images if image.woven],
        "misfits": [{"master": name, "said": said, "shown": shown} for name, said, shown in one.misfits],
        "unheeded": list(one.unheeded),
        "strayed": [{"fetched": url, "predicted": wanted} for url, wanted in one.strayed],
        "bytes": {"before": one.before.weight, "after": one.after.weight},
        "shift": {"before": round(one.shift, 4), "after": round(one.after.shift, 4)},
        "largest_ms": {"before": one.largest[0], "after": one.largest[1]},
    }
