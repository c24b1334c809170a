"""`sarvel one`: the whole job for one image, without a plan file.

Its options are turned into what a plan would say, which is checked and composed like any plan, or printed as one.
"""

from __future__ import annotations

import argparse
import os
from dataclasses import replace
from pathlib import Path

from sarvel.cli.commands.render import as_json
from sarvel.cli.ui.console import Console
from sarvel.core.address.address import InFolder
from sarvel.core.markup.picture import write_markup
from sarvel.errors import MasterError, PlanError
from sarvel.files.ledger import Ledger
from sarvel.files.output_folder import OutputFolder
from sarvel.pages.read.local_files import is_file
from sarvel.pages.weave.write import plain
from sarvel.pipeline.plan_folders import masters_of_plan
from sarvel.pipeline.render import RenderOptions, alone, made_of
from sarvel.pipeline.site import RequestedImages, compose_site
from sarvel.plan.read import Plan, plan_from

_SLOT = "image"
_CALLED = Path("command line")  # what messages call the plan that no one wrote


def run(options: argparse.Namespace) -> int:
    """Makes the files and prints the markup; exit code 2 if the master cannot be read."""
    console = Console.of(options)
    if not is_file(Path(options.master)):
        raise PlanError.at(options.master, "there is no such file", "mend its name")
    content = _content(options)
    plan = plan_from(content, _CALLED, {})
    if options.as_plan:
        console.result(_as_toml(content))
        console.document(plan=_as_toml(content))
        return 0
    key = Path(options.master).name
    with Ledger() as ledger:  # there is no plan's folder to keep one in
        return _make(plan, key, ledger, options, console)


def _make(plan: Plan, key: str, ledger: Ledger, options: argparse.Namespace, console: Console) -> int:
    asked = RequestedImages(plan, masters_of_plan(plan), OutputFolder(plan.output), (), (), ((_SLOT, key),), (), (), ())
    site = compose_site(asked, asked.wanted, ledger)
    for error in site.unreadable.values():
        (notice,) = error.notices
        place = Path(options.master).parent / notice.place
        raise PlanError(replace(notice, place=str(place)))  # there is no other work
    with alone(site.output, console):
        site, rendered = made_of(site, ledger, RenderOptions(workers=options.workers), console)
    if rendered.faults:
        raise MasterError(*rendered.faults.values())
    picture = site.edition.pictures[_SLOT, key]
    markup = plain(write_markup(picture, InFolder(plan.address or ""), site.placeholders), options.alt)
    console.trouble(site.warnings)
    console.notes(site.notes)
    console.result(markup)
    made = as_json(rendered, site.dropped())
    console.document(markup=markup, rendered=made, warnings=site.warnings, notes=site.notes)
    return console.code(failed=False)


def _content(options: argparse.Namespace) -> dict[str, object]:
    """The options as a plan would say them."""
    slot: dict[str, object] = {"sizes": _sizes(options.sizes or ["100vw"]), "crops": _crops(options.crop or ["native"])}
    if options.loading:
        slot["loading"] = options.loading
    if options.effort:
        slot["effort"] = options.effort
    if options.formats:
        slot["formats"] = _listed(options.formats)
    if options.densities:
        slot["densities"] = [_number(part, "--densities") for part in _listed(options.densities)]
    master: dict[str, object] = {"alt": options.alt}
    if options.subject:
        master["subject"] = [_number(part, "--subject") for part in _listed(options.subject)]
    output = options.output.rstrip("/") or "/"
    site = {
        "masters": os.path.dirname(options.master) or ".",  # noqa: PTH120 - as the user wrote it, in text
        "output": output,
        "address": options.address if options.address is not None else Path(output).name,
    }
    return {"site": site, "slots": {_SLOT: slot}, "masters": {Path(options.master).name: master}}


def _sizes(said: list[str]) -> str | list[dict[str, object]]:
    """One length or `sizes` value, or widths that begin at viewport widths."""
    if len(said) == 1 and not _start(said[0]):
        return said[0]
    steps: list[dict[str, object]] = []
    for text in said:
        start, _, width = text.partition("=")
        if not _start(text):
            raise PlanError.at(
                "", f"--sizes {text}: several widths need the viewport width where each begins", f"write 1024={text}"
            )
        steps.append({"from": _number(start, "--sizes"), "width": width.strip()})
    return steps


def _crops(said: list[str]) -> str | list[dict[str, str]]:
    """One ratio, or ratios in the order tried: conditions as given, then viewport widths from the widest down."""
    if len(said) == 1 and "=" not in said[0]:
        return said[0]
    conditions: list[dict[str, str]] = []
    starts: dict[float, str] = {}
    for text in said:
        when, _, ratio = text.rpartition("=")
        if when.strip().startswith("("):
            conditions.append({"when": when.strip(), "ratio": ratio.strip()})
        else:
            start = _number(when, "--crop") if when else 0.0
            if start in starts:
                raise PlanError.at(
                    "",
                    f"--crop {text}: two crops begin at {start:g}",
                    f"give all but one a viewport width: 1024={ratio}",
                )
            starts[start] = ratio.strip()
    starts.setdefault(0.0, "native")
    by_width = [
        {"when": f"(min-width: {start:g}px)", "ratio": ratio} if start else {"ratio": ratio}
        for start, ratio in sorted(starts.items(), reverse=True)
    ]
    return [*conditions, *by_width]


def _start(text: str) -> bool:
    """Tells whether a text begins with a viewport width and an equals sign."""
    head = text.partition("=")
    return bool(head[1]) and head[0].strip().removesuffix("px").replace(".", "", 1).isdecimal()


def _listed(text: str) -> list[str]:
    return [part.strip() for part in text.split(",")]


def _number(text: str, option: str) -> float:
    try:
        number = float(text.strip().removesuffix("px"))
    except ValueError:
        raise PlanError.at(option, f"got '{text}' where a number belongs", "see sarvel one --help") from None
    return int(number) if number == int(number) else number


def _as_toml(content: dict[str, object]) -> str:
    import tomlkit

    return tomlkit.dumps(content).strip()
