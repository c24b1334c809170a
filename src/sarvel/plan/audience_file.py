"""An audience file: CSV with a line of names, `width`, `height`, `density`, `share` and if wanted `label`."""

from __future__ import annotations

import csv
from pathlib import Path

from sarvel.core.css.device import Device
from sarvel.core.layout.audience import Visits
from sarvel.errors import PlanError
from sarvel.plan.messages import shortened

# The columns that are needed, and the most that each may hold: more is a slip, or an attack.
_NEEDED = {"width": 100_000, "height": 100_000, "density": 20, "share": 1e15}


def read_audience(file: Path) -> tuple[Visits, ...]:
    """Reads an audience; shares need not add up to 100.

    Raises:
        PlanError: the file is missing, lacks a column or a row, or a number is none.
    """
    try:
        text = file.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        why = error.strerror if isinstance(error, OSError) else f"byte {error.start} is not UTF-8"
        raise PlanError(f"{file}: the audience cannot be read ({why}); mend site.audience or the file") from error
    rows = csv.DictReader(text.splitlines(), skipinitialspace=True)
    try:
        return _read(file, rows)
    except csv.Error as error:
        raise PlanError(f"{file}:{rows.line_num + 1}: is no line of CSV ({error}); mend or take it away") from error


def _read(file: Path, rows: csv.DictReader[str]) -> tuple[Visits, ...]:
    missing = [name for name in _NEEDED if name not in (rows.fieldnames or ())]
    if missing:
        raise PlanError(
            f"{file}:1: no column {', '.join(missing)}; begin with the line width,height,density,share,label"
        )
    audience = tuple(_visits(file, rows.line_num, row) for row in rows)
    if not audience:
        raise PlanError(f"{file}: no device in it; write a line for each, such as 390,844,3,15,phone")
    return audience


def _visits(file: Path, line: int, row: dict[str, str]) -> Visits:
    width, height, density, share = (_positive(file, line, name, row[name], most) for name, most in _NEEDED.items())
    return Visits(Device(width, height, density), share, (row.get("label") or "").strip() or f"{width:g} px wide")


def _positive(file: Path, line: int, name: str, text: str | None, most: float) -> float:
    try:
        number = float((text or "").strip().rstrip("%"))
    except ValueError:
        number = 0.0
    if not 0 < number <= most:
        raise PlanError(
            f"{file}:{line}: {name}: got '{shortened(text or '')}'; write a number above 0, up to {most:,.0f}"
        )
    return number
