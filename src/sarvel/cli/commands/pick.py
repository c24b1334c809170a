"""`sarvel pick`: which file each device fetches for the images of any page, and how well it fits."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path

from sarvel.cli.ui.console import Console
from sarvel.cli.ui.styles import BAD, GOOD, WARNING
from sarvel.cli.ui.table import Column, Table
from sarvel.cli.ui.text import visible, without_files
from sarvel.core.amounts import percent, weight
from sarvel.core.layout.audience import BUILT_IN, Visits, busiest
from sarvel.errors import PageError, PlanError
from sarvel.pages.read.page_files import read_text
from sarvel.plan.read import Plan, read_plan_if_any
from sarvel.tools.pick import Outcome, PageImage, images_of, others_of, outcomes

_SHOWN = 12  # viewports of a table: with more of them no one reads it


def run(options: argparse.Namespace) -> int:
    """Picks; exit code 1 if some device gets a soft or broken image."""
    console = Console.of(options)
    page = None if options.page == "-" else Path(options.page)
    text = sys.stdin.read() if page is None else _read(page)
    plan = read_plan_if_any(options.plan, page.absolute().parent if page else Path.cwd())
    audience = _audience(options, plan)
    images = _chosen(images_of(text, page, plan), options.image)
    results = outcomes(images, audience, text, page, plan)
    shown = {number: [some[i] for i in _shown(audience, results)] for number, some in results.items()}
    for image in images:
        _tell(console, image, shown[image.number], why=options.why)
    if not images:
        console.result("no image in this page")
    elif len(images) > 1:
        console.show(_totals(images, shown))
    if images and len(shown[images[0].number]) < len(audience):
        count = len(shown[images[0].number])
        console.result(f"{count} of {len(audience)} viewports; --device names others, --json tells all")
    others = others_of(text, page, plan) if options.image is None else []
    for one in others:
        bytes_ = weight(one.weight) if one.weight is not None else "?"
        console.result(f"line {one.line}: {visible(_file_name(one.url))} ({one.use}), {bytes_}, for every device")
    console.document(
        images=[_as_json(image, results[image.number]) for image in images],
        others=[{"use": one.use, "url": one.url, "line": one.line, "bytes": one.weight} for one in others],
    )
    is_bad = any(_is_bad(outcome) for some in results.values() for outcome in some)
    return console.code(failed=console.strict and is_bad)


def _shown(audience: Sequence[Visits], results: dict[int, list[Outcome]]) -> list[int]:
    """The places of the viewports to show: those of most visits, and those where something is wrong."""
    first = busiest(audience, _SHOWN) if len(audience) > _SHOWN else audience
    return [i for i, one in enumerate(audience) if one in first or any(_is_bad(some[i]) for some in results.values())]


def _is_bad(outcome: Outcome) -> bool:
    return outcome.broken or outcome.fit.soft


def _read(page: Path) -> str:
    try:
        return read_text(page).text
    except PageError as error:
        raise PlanError(*error.notices) from error  # nothing can be done without the one page that was asked for


def _audience(options: argparse.Namespace, plan: Plan | None) -> Sequence[Visits]:
    if options.device:
        return [Visits(device, 1, "") for device in options.device]
    return busiest(plan.audience if plan else BUILT_IN)


def _chosen(images: list[PageImage], name: str | None) -> list[PageImage]:
    if name is None:
        return images

    def meant(image: PageImage) -> bool:
        attributes = image.element.attributes
        match name[:1]:
            case "#":
                return attributes.get("id") == name[1:]
            case ".":
                return name[1:] in attributes.get("class", "").split()
        return name in (str(image.number), image.slot)

    chosen = [image for image in images if meant(image)]
    if not chosen:
        raise PlanError.at(
            "",
            f"--image {name}: no such image among the {len(images)} of this page",
            "write a number, #id, .class or a slot",
        )
    return chosen


def _tell(console: Console, image: PageImage, results: list[Outcome], *, why: bool) -> None:
    if not console.is_for_people:
        return
    from rich.text import Text  # slow to load

    name = visible(_name(image))
    console.show(Text.assemble((f"{image.number}  {name}", "bold"), (f"  line {image.line}", "dim")))
    table = Table(
        [
            Column("device"),
            Column("", spare=1, style="dim"),
            Column("shown", "number"),
            Column("needs", "number"),
            Column("fetches", "name"),
            Column("has", "number"),
            Column("fit"),
            Column("weighs", "number"),
        ]
    )
    for outcome in results:
        shown, needed, has = outcome.fit.shown, outcome.fit.needed, outcome.fit.width
        table.add(
            str(outcome.visits.device),
            outcome.visits.label,
            f"{shown:.0f}" if shown is not None else "?",
            str(needed or "?"),
            _file_name(outcome.pick.url),
            f"{has:.0f}" if has is not None else "?",
            (outcome.verdict, _color(outcome)),
            weight(outcome.weight) if outcome.weight is not None else "?",
        )
    console.show(table)
    for outcome in results if why else ():
        console.show(Text(f"{outcome.visits.device}", style="bold"))
        for line in _reasons(outcome):
            console.show(Text(f"  {visible(without_files(line))}"))


def _name(image: PageImage) -> str:
    """The name of an image for people: its slot and its file."""
    attributes = image.element.attributes
    named = image.master or attributes.get("src", "") or attributes.get("alt", "")
    return (f"{image.slot}  {_file_name(named)}" if image.slot else _file_name(named)) or "image"


def _file_name(url: str) -> str:
    """The last part of an address; of one that holds a file, what kind it is."""
    return without_files(url) if url.startswith("data:") else url.rsplit("/", 1)[-1]


def _color(outcome: Outcome) -> str:
    if _is_bad(outcome):
        return BAD
    return WARNING if "too wide" in outcome.verdict else GOOD if outcome.fit.share else ""


def _reasons(outcome: Outcome) -> list[str]:
    found = outcome.pick
    where = "the img" if found.source is None else f"source {found.source + 1}"
    lines = [*outcome.passed, f"{where}: its candidates are tried"]
    if found.shown is not None:
        lines.append(f"sizes gives {found.shown:g} px, so a density is the candidate's width divided by that")
    for i, choice in enumerate(found.choices):
        mark = "→" if i == found.chosen else " "
        lines.append(f"{mark} density {choice.density:.3g}  {_file_name(choice.url)}")
    if found.chosen is not None:
        enough = found.choices[found.chosen].density >= outcome.visits.device.dpr
        rule = "the least that reaches" if enough else "the greatest, though it does not reach"
        lines.append(f"picked: {rule} the device's {outcome.visits.device.dpr:g}")
    return lines


def _totals(images: Sequence[PageImage], results: dict[int, list[Outcome]]) -> Table:
    known = [image.master_bytes for image in images if image.master_bytes is not None]
    masters = sum(known) if len(known) == len(images) else None
    table = Table(
        [
            Column("device"),
            Column("", spare=1, style="dim"),
            Column("weighs", "number"),
            Column("masters", "number"),
            Column("saves", "number", style=GOOD),
            Column("soft or broken", "number"),
        ],
        title="the page, by device",
    )
    for some in zip(*results.values(), strict=True):
        visits = some[0].visits
        weights = [outcome.weight for outcome in some]
        total = None if None in weights else sum(one or 0 for one in weights)
        bad = sum(map(_is_bad, some))
        table.add(
            str(visits.device),
            visits.label,
            weight(total) if total is not None else "?",
            weight(masters) if masters is not None else "?",
            percent(1 - total / masters) if masters and total is not None else "",
            (str(bad), BAD) if bad else "none",
        )
    return table


def _as_json(image: PageImage, results: list[Outcome]) -> dict[str, object]:
    return {
        "image": image.number,
        "line": image.line,
        "slot": image.slot,
        "master_bytes": image.master_bytes,
        "devices": [
            {
                "device": str(outcome.visits.device),
                "share": outcome.visits.share,
                "shown": outcome.fit.shown,
                "needed": outcome.fit.needed,
                "url": without_files(outcome.pick.url),
                "width": outcome.fit.width,
                "density": outcome.pick.choices[outcome.pick.chosen].density
                if outcome.pick.chosen is not None
                else None,
                "fit": outcome.fit.share,
                "soft": outcome.fit.soft,
                "broken": outcome.broken,
                "bytes": outcome.weight,
                "passed": list(outcome.passed),
            }
            for outcome in results
        ],
    }
