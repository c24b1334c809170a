"""An audience file: a table of viewports with the share of visits of each, by hand or exported from analytics.

By hand it is CSV with a line of names: `width`, `height`, `density`, `share` and if wanted `label`; and formats such as `avif`,
whose cells hold the share of these visits that reads them.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import get_args

from sarvel.core.css.device import Device
from sarvel.core.layout.audience import Visits
from sarvel.core.model import FormatName
from sarvel.errors import PlanError
from sarvel.plan.audience_export import Export, export_of
from sarvel.plan.csv_rows import numbered_rows, text_of
from sarvel.plan.messages import shortened

_FORMATS = get_args(FormatName)
# The columns that are needed, and the most that each may hold: more is a slip, or an attack.
_NEEDED = {"width": 100_000, "height": 100_000, "density": 20, "share": 1e15}


def read_audience(file: Path) -> tuple[Visits, ...]:
    """Reads an audience; shares need not add up to 100.

    Raises:
        PlanError: the file is missing, lacks a column or a row, or a number is invalid.
    """
    audience = tuple(_read(file, numbered_rows(file, text_of(file, "site.audience"))))
    if not audience:
        raise PlanError.at(file, "no device in it", "write a line for each, such as 390,844,3,15,phone")
    return audience


def _read(file: Path, rows: Iterator[tuple[int, list[str]]]) -> Iterator[Visits]:
    first, names = next(rows, (1, []))
    missing = [name for name in _NEEDED if name not in names]
    export = export_of(names) if missing else None
    if missing and export is None:
        raise PlanError.at(
            f"{file}:{first}",
            f"no column {', '.join(missing)}; begin with the line width,height,density,share,label",
            "an export needs a column of sizes such as 390x844, and one of visits",
        )
    for line, cells in rows:
        if any(cells):
            yield from _visits(file, line, dict(zip(names, cells, strict=False)), cells, export)


def _visits(file: Path, line: int, row: dict[str, str], cells: list[str], export: Export | None) -> Iterator[Visits]:
    if export is None:
        yield _by_hand(file, line, row)
        return
    try:
        yield from export.read(cells)
    except ValueError as error:
        raise PlanError.at(f"{file}:{line}", str(error)) from error


def _by_hand(file: Path, line: int, row: dict[str, str]) -> Visits:
    low, parted, high = row.get("width", "").partition("-")
    width = _positive(file, line, "width", low)
    until = _positive(file, line, "width", high) if parted else width
    if until < width:
        raise PlanError.at(f"{file}:{line}", f"width: got '{row['width']}'", "write the narrower end of a range first")
    height, density, share = (_positive(file, line, name, row.get(name, "")) for name in ("height", "density", "share"))
    label = row.get("label") or (f"{width:g} px wide" if until == width else f"{width:g} to {until:g} px wide")
    reads = tuple((name, _share(file, line, name, row[name])) for name in _FORMATS if row.get(name))
    return Visits(Device(width, height, density), share, label, until if until > width else None, reads)


def _share(file: Path, line: int, name: str, text: str) -> float:
    try:
        share = float(text.rstrip("%")) / (100 if text.endswith("%") else 1)
    except ValueError:
        share = -1.0
    if not 0 <= share <= 1:
        got = f"{name}: got '{shortened(text)}'"
        raise PlanError.at(f"{file}:{line}", got, "write the share that reads it, from 0 to 1 or 0% to 100%")
    return share


def _positive(file: Path, line: int, name: str, text: str) -> float:
    most = _NEEDED[name]
    try:
        number = float(text.strip().rstrip("%"))
    except ValueError:
        number = 0.0
    if not 0 < number <= most:
        form = ", or a range such as 1024-1920" if name == "width" else ""
        raise PlanError.at(
            f"{file}:{line}", f"{name}: got '{shortened(text)}'", f"write a number above 0, up to {most:,.0f}{form}"
        )
    return number
