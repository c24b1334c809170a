"""`sarvel pick`: which file each device fetches for the images of any page, and how well it fits."""

from __future__ import annotations

import argparse
import re
import sys
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from sarvel.cli.speak import Speaker, console_width, percent, size, visible, without_files
from sarvel.core.css.device import Device
from sarvel.core.html.images import ImageElement
from sarvel.core.html.page import images_in
from sarvel.core.html.pick import Pick, pick
from sarvel.core.html.tags import line_and_column
from sarvel.core.layout.audience import BUILT_IN, Visits
from sarvel.core.layout.fit import Fit, fit
from sarvel.errors import MasterError, PageError, PlanError
from sarvel.pages.at_hand import Roots, file_of
from sarvel.pages.files import master_named, read_page
from sarvel.plan.read import Plan, read_plan_if_any

_OTHER_COLUMNS = 61  # letters that a line takes beside the label and the file's name
_ROOMY = 100  # columns of a terminal from which all columns are shown


@dataclass(frozen=True)
class Image:
    """One image of the page.

    Attributes:
        number: from 1.
        element: what the page says of it.
        name: what a person would call it.
        line: where it stands.
        master_bytes: of the master behind it; None if it has none at hand.
    """

    number: int
    element: ImageElement
    name: str
    line: int
    master_bytes: int | None


@dataclass(frozen=True)
class Outcome:
    """What one device gets for one image.

    Attributes:
        visits: the device.
        pick: what it fetches, and why.
        fit: how well that fits.
        weight: bytes of the file; None if it is not at hand.
        broken: whether there is no file to fetch, or it is missing.
    """

    visits: Visits
    pick: Pick
    fit: Fit
    weight: int | None
    broken: bool

    @property
    def verdict(self) -> str:
        """The fit in words, or what is worse."""
        if self.broken:
            return "missing" if self.pick.url else "nothing to fetch"
        return str(self.fit)


def run(options: argparse.Namespace) -> int:
    """Picks; exit code 1 if some device gets a soft or broken image."""
    speaker = Speaker.of(options)
    page = None if options.page == "-" else Path(options.page)
    text = sys.stdin.read() if page is None else _read(page)
    plan = read_plan_if_any(options.plan, page.absolute().parent if page else Path.cwd())
    audience = _audience(options, plan)
    images = _chosen([*_images(text, page, plan)], options.image)
    roots = Roots(page.parent if page else Path(), plan.output if plan else None, plan.address if plan else "")
    results = {image.number: [_outcome(image, visits, roots, plan) for visits in audience] for image in images}
    for image in images:
        _tell(speaker, image, results[image.number], why=options.why)
    if not images:
        speaker.result("no image in this page")
    elif len(images) > 1:
        _tell_totals(speaker, images, results, audience)
    speaker.document(images=[_as_json(image, results[image.number]) for image in images])
    bad = [outcome for some in results.values() for outcome in some if outcome.broken or outcome.fit.soft]
    return 1 if bad else 0


def _read(page: Path) -> str:
    try:
        return read_page(page).text
    except PageError as error:
        raise PlanError(str(error)) from error  # nothing can be done without the one page that was asked for


def _audience(options: argparse.Namespace, plan: Plan | None) -> Sequence[Visits]:
    if options.device:
        return [Visits(Device(*one), 1, "") for one in options.device]
    return plan.audience if plan else BUILT_IN


def _images(text: str, page: Path | None, plan: Plan | None) -> list[Image]:
    found = []
    for number, element in enumerate(images_in(text), start=1):
        attributes = element.attributes
        master = attributes.get("data-master", "")
        name = _file_name(master or attributes.get("src", "") or attributes.get("alt", ""))
        if slot := attributes.get("data-sarvel"):
            name = f"{slot}  {name}"
        line, _ = line_and_column(text, element.start)
        found.append(Image(number, element, name or "image", line, _master_bytes(master, page, plan)))
    return found


def _master_bytes(master: str, page: Path | None, plan: Plan | None) -> int | None:
    if not master or not plan:
        return None
    key = master_named(master, page or Path("page"), plan.folder, plan.masters_folder)
    file = plan.masters_folder / key if key else None
    return file.stat().st_size if file and file.is_file() else None


def _chosen(images: list[Image], name: str | None) -> list[Image]:
    if name is None:
        return images

    def meant(image: Image) -> bool:
        attributes = image.element.attributes
        match name[:1]:
            case "#":
                return attributes.get("id") == name[1:]
            case ".":
                return name[1:] in attributes.get("class", "").split()
        return name in (str(image.number), attributes.get("data-sarvel"))

    chosen = [image for image in images if meant(image)]
    if not chosen:
        raise PlanError(
            f"--image {name}: no such image among the {len(images)} of this page; write a number, #id, .class or a slot"
        )
    return chosen


def _outcome(image: Image, visits: Visits, roots: Roots, plan: Plan | None) -> Outcome:
    attributes = image.element.attributes
    found = pick(image.element, visits.device)
    file, missing = file_of(found.url, roots) if found.url else (None, roots.page)
    slot = plan.slots.get(attributes.get("data-sarvel", "")) if plan and "data-master" in attributes else None
    said = attributes.get("width", "")
    shown = slot.shown.on(visits.device) if slot else float(said) if said.isdecimal() else None
    densest = max(slot.densities) if slot else None
    return Outcome(
        visits,
        found,
        fit(found, visits.device, shown=shown, width=_width(file) if file else None, densest=densest),
        file.stat().st_size if file else None,
        missing is not None,
    )


def _width(file: Path) -> int | None:
    from sarvel.press.masters import opened  # noqa: PLC0415 - slow to load

    if file not in _WIDTHS:
        try:
            with opened(file, file.name) as image:
                _WIDTHS[file] = image.width
        except MasterError:
            _WIDTHS[file] = None
    return _WIDTHS[file]


_WIDTHS: dict[Path, int | None] = {}  # of files looked at in this run: every device asks for the same few


def _tell(speaker: Speaker, image: Image, outcomes: list[Outcome], *, why: bool) -> None:
    if speaker.json or speaker.quiet:
        return
    from rich import box  # noqa: PLC0415 - slow to load
    from rich.table import Table  # noqa: PLC0415 - as above
    from rich.text import Text  # noqa: PLC0415 - as above

    speaker.rich(Text.assemble((f"{image.number}  {image.name}", "bold"), (f"  line {image.line}", "dim")))
    roomy = console_width() >= _ROOMY
    labels = max((len(outcome.visits.label) for outcome in outcomes), default=0) + 1 if roomy else 0
    room = max(12, console_width() - _OTHER_COLUMNS - labels)
    table = Table(box=box.SIMPLE_HEAD, padding=(0, 1, 0, 0), pad_edge=False)
    table.add_column("device", no_wrap=True)
    if roomy:
        table.add_column("", no_wrap=True, style="dim")
    table.add_column("shown", justify="right", no_wrap=True)
    table.add_column("needs", justify="right", no_wrap=True)
    table.add_column("fetches", no_wrap=True)
    table.add_column("has", justify="right", no_wrap=True)
    table.add_column("fit", no_wrap=True)
    table.add_column("weighs", justify="right", no_wrap=True)
    for outcome in outcomes:
        shown, needed, has = outcome.fit.shown, outcome.fit.needed, outcome.fit.width
        table.add_row(
            str(outcome.visits.device),
            *([outcome.visits.label] if roomy else []),
            f"{shown:.0f}" if shown is not None else "?",
            str(needed or "?"),
            _short(outcome.pick.url, room),
            f"{has:.0f}" if has is not None else "?",
            Text(outcome.verdict, style=_color(outcome)),
            size(outcome.weight) if outcome.weight is not None else "?",
        )
    speaker.rich(table)
    for outcome in outcomes if why else ():
        speaker.rich(Text(f"{outcome.visits.device}", style="bold"))
        for line in _reasons(outcome):
            speaker.rich(Text(f"  {visible(without_files(line))}"))


def _file_name(url: str) -> str:
    """The last part of an address; of one that holds a file, what kind it is."""
    return without_files(url) if url.startswith("data:") else url.rsplit("/", 1)[-1]


def _short(url: str, room: int) -> str:
    """A file's name in so many letters: without the digest that Sarvel's have, and without its middle if need be."""
    name = re.sub(r"\.[0-9a-f]{10}(?=\.\w+$)", "", _file_name(url))
    head = (room - 1) // 3
    return name if len(name) <= room else f"{name[:head]}…{name[head + 1 - room :]}"


def _color(outcome: Outcome) -> str:
    if outcome.broken or outcome.fit.soft:
        return "bold red"
    return "yellow" if "too wide" in outcome.verdict else "green" if outcome.fit.share else ""


def _reasons(outcome: Outcome) -> list[str]:
    found = outcome.pick
    where = "the img" if found.source is None else f"source {found.source + 1}"
    lines = [*found.passed, f"{where}: its candidates are tried"]
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


def _tell_totals(
    speaker: Speaker, images: list[Image], results: dict[int, list[Outcome]], audience: Sequence[Visits]
) -> None:
    if speaker.json or speaker.quiet:
        return
    from rich import box  # noqa: PLC0415 - slow to load
    from rich.table import Table  # noqa: PLC0415 - as above
    from rich.text import Text  # noqa: PLC0415 - as above

    known = [image.master_bytes for image in images if image.master_bytes is not None]
    masters = sum(known) if len(known) == len(images) else None
    table = Table(
        box=box.SIMPLE_HEAD, padding=(0, 2, 0, 0), pad_edge=False, title="the page, by device", title_justify="left"
    )
    table.add_column("device", no_wrap=True)
    table.add_column("", style="dim", no_wrap=True)
    table.add_column("weighs", justify="right")
    table.add_column("masters", justify="right")
    table.add_column("saves", justify="right", style="green")
    table.add_column("soft or broken", justify="right")
    for i, visits in enumerate(audience):
        outcomes = [results[image.number][i] for image in images]
        weights = [outcome.weight for outcome in outcomes]
        total = None if None in weights else sum(weight or 0 for weight in weights)
        bad = sum(outcome.broken or outcome.fit.soft for outcome in outcomes)
        table.add_row(
            str(visits.device),
            visits.label,
            size(total) if total is not None else "?",
            size(masters) if masters is not None else "?",
            percent(1 - total / masters) if masters and total is not None else "",
            Text(str(bad), style="bold red") if bad else "none",
        )
    speaker.rich(table)


def _as_json(image: Image, outcomes: list[Outcome]) -> dict[str, object]:
    return {
        "image": image.number,
        "line": image.line,
        "slot": image.element.attributes.get("data-sarvel", ""),
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
                "passed": list(outcome.pick.passed),
            }
            for outcome in outcomes
        ],
    }
