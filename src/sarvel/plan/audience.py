"""An audience file: CSV with a line of names, `width`, `height`, `density`, `share` and if wanted `label`."""

from __future__ import annotations

import csv
import math
from pathlib import Path

from sarvel.core.css.device import Device
from sarvel.core.layout.audience import Visits
from sarvel.errors import PlanError

_NEEDED = ("width", "height", "density", "share")


def read_audience(file: Path) -> tuple[Visits, ...]:
    """Reads an audience; shares need not add up to 100.

    Raises:
        PlanError: the file is missing, lacks a column or a row, or a number is none.
    """
    try:
        text = file.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise PlanError(f"{file}: the audience cannot be read ({error}); mend site.audience or the file") from error
    rows = csv.DictReader(text.splitlines(), skipinitialspace=True)
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
    width, height, density, share = (_positive(file, line, name, row[name]) for name in _NEEDED)
    return Visits(Device(width, height, density), share, (row.get("label") or "").strip() or f"{width:g} px wide")


def _positive(file: Path, line: int, name: str, text: str | None) -> float:
    try:
        number = float((text or "").strip().rstrip("%"))
    except ValueError:
        number = 0.0
    if not 0 < number < math.inf:
        raise PlanError(f"{file}:{line}: {name}: got '{text or ''}'; write a number above 0")
    return number
