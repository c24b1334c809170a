"""Results of `render` and `build` in words, out of what `--json` prints, so that a run with nothing to do can say them again."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from sarvel.cli.ui.console import Console
from sarvel.core.amounts import counted, percent, weight
from sarvel.notices import Kind, Notice


def describe_made(rendered: Mapping[str, Any], output: str) -> str:
    """The result of rendering in a sentence."""
    gone = f", {len(rendered['pruned'])} pruned" if rendered["pruned"] else ""
    return f"{counted(len(rendered['made']), 'file')} made, {rendered['kept']} were there already{gone}, in {output}"


def describe_written(pages: Mapping[str, Any], verb: str) -> str:
    """The result of weaving in a sentence; `pages` as docs/json.md has it."""
    written = len(pages["written"])
    return f"{counted(pages['images'], 'image')} {verb}; {counted(written, 'file')} written, {pages['unchanged']} unchanged"


def show_pictures(document: Mapping[str, Any], console: Console) -> None:
    """Shows a table of all pictures that a build came to, if there are any."""
    pictures: Sequence[Mapping[str, Any]] = document["pictures"]
    if not pictures or not console.is_for_people:
        return
    from sarvel.cli.ui.styles import GOOD
    from sarvel.cli.ui.table import Column, Table  # slow to load

    sums = document["pages_fetch"]
    devices: Mapping[str, int] = sums["bytes"]
    columns = [
        column
        for device, label in zip(devices, ("phone", "desktop"), strict=True)
        for column in (Column(f"{label}\n{device}", "number"), Column("\nsaves", "number", style=GOOD))
    ]
    first = [Column("master", "name"), Column("slot", spare=1, style="dim")]
    table = Table([*first, Column("weighs", "number"), Column("files", "number"), *columns])
    for one in pictures:
        fetched = [one["fetched"][device] for device in devices]
        cells = [cell for file in fetched for cell in (weight(file["bytes"]), percent(file["saving"]))]
        table.add(one["master"], one["slot"], weight(one["master_bytes"]), str(one["files"]), *cells)
    masters = sums["masters_bytes"]
    totals = [cell for total in devices.values() for cell in (weight(total), percent(1 - total / max(1, masters)))]
    label = {0: "all, each once", 1: "the page"}.get(sums["pages"], f"{sums['pages']} pages together")
    table.end(label, "", weight(masters), str(sum(one["files"] for one in pictures)), *totals)
    console.show(table)


def unchanged(document: Mapping[str, Any]) -> dict[str, Any]:
    """The document of the next run, if nothing changes until then."""
    rendered, pages = document["rendered"], document.get("pages")
    nothing: dict[str, list[str]] = {"made": [], "left_out": [], "pruned": [], "altered": []}
    again = {**document, "rendered": {**rendered, **nothing, "kept": rendered["kept"] + len(rendered["made"])}}
    if pages:
        again["pages"] = {**pages, "written": [], "unchanged": pages["unchanged"] + len(pages["written"])}
    return again


def tell_unchanged(result: Mapping[str, Any], console: Console) -> int:
    """Prints the result of a run that had nothing to do; returns the exit code.

    Args:
        result: its `document`; its `output`; of a build also what `check.for_later` gives.
    """
    document = result["document"]
    is_build = "pages" in document
    if is_build:
        show_pictures(document, console)
    console.result(describe_made(document["rendered"], result["output"]))
    if is_build:
        console.result(describe_written(document["pages"], "woven"))
        if result["findings"] and console.is_for_people:
            from sarvel.cli.commands.check import tell_again  # slow to load

            tell_again(result["findings"], console)
        console.result(result["summed"])
    console.trouble(map(Notice.from_json, document["warnings"]))
    console.notes(map(Notice.from_json, document["notes"]))
    if is_build and result["grave"]:
        tell_grave(result["summed"], console)
    console.document(**document)
    return console.code(failed=console.strict and is_build and result["grave"])


def tell_grave(summed: str, console: Console) -> None:
    """Prints how many findings there are, where the findings are not printed."""
    if console.quiet:
        console.trouble([Notice(Kind.FINDINGS, "", summed, "run sarvel check to see them")])
