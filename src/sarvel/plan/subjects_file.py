"""A file of subjects: which part of each master must stay in view, as a person or another program says.

It is CSV with a line of names, or a JSON list of objects with the same names: `file`; `left`, `top`, `right` and `bottom` of a
box, or `x` and `y` of a point; and if wanted `sure`. Numbers are fractions of the upright picture, or px of it. A master may
have several rows.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import NamedTuple

from sarvel.core.crop.place import WHOLE, Box
from sarvel.core.facts import LEAST_SURE, NamedSubject
from sarvel.errors import MasterError, PlanError
from sarvel.plan.csv_rows import numbered_rows, text_of
from sarvel.plan.messages import nearest, shortened

NAMES = ("file", "left", "top", "right", "bottom", "x", "y", "sure")
_BOX, _POINT = ("left", "top", "right", "bottom"), ("x", "y")

# Detectors say 1.02 for a box that ends outside; no box that anyone means ends two px from the corner of a picture.
_MOST_OF_FRACTIONS = 1.5
_HEAD = "begin with the line file,left,top,right,bottom or file,x,y"


class ImportedRow(NamedTuple):
    """A row of the file.

    Attributes:
        place: where it is, for messages.
        box: in fractions or px, as `in_px` tells.
        sure: 0 to 1; None if it is not said.
    """

    place: str
    box: Box
    in_px: bool
    sure: float | None


class ImportedSubjects(NamedTuple):
    """The subjects of a file.

    Attributes:
        rows: by master, in the order of the file.
    """

    file: Path
    rows: Mapping[str, Sequence[ImportedRow]]

    def of(self, key: str, width: int, height: int) -> NamedSubject | None:
        """What the file names in a master: the surest first; None for nothing that is sure enough to be followed.

        Args:
            width, height: of the upright master, px.

        Raises:
            MasterError: a box lies outside of it.
        """
        said = sorted(self.rows.get(key, ()), key=lambda row: -(1.0 if row.sure is None else row.sure))
        some = [row for row in said if row.sure is None or row.sure >= LEAST_SURE]
        if not some:
            return None
        boxes = tuple(self._fractions(key, row, width, height) for row in some)
        return NamedSubject(() if boxes[0] == WHOLE else boxes, "import", some[0].sure)

    def _fractions(self, key: str, row: ImportedRow, width: int, height: int) -> Box:
        box = row.box.times(1 / width, 1 / height) if row.in_px else row.box
        if not (box.left <= 1 and box.top <= 1 and box.right >= 0 and box.bottom >= 0):
            text = f"lies outside of {key}, which has {width}×{height} px"
            raise MasterError.at(row.place, text, "write fractions from 0 to 1, or px of the upright picture")
        return Box(max(0.0, box.left), max(0.0, box.top), min(1.0, box.right), min(1.0, box.bottom))


def read_subjects(file: Path, masters: Sequence[str]) -> ImportedSubjects:
    """Reads a file of subjects.

    Args:
        masters: ways to write the masters folder, without a slash at the end: names may begin with one.

    Raises:
        PlanError: the file is missing, is neither CSV nor JSON, lacks a column, or a number is invalid.
    """
    text = text_of(file, "site.subjects")
    rows: dict[str, list[ImportedRow]] = {}
    for place, said in _objects(file, text) if text.lstrip()[:1] in ("[", "{") else _lines(file, text):
        if not isinstance(said.get("file"), str) or not said["file"]:
            raise PlanError.at(place, "names no file", "write the path of a master below the masters folder")
        name = str(said["file"]).replace("\\", "/").removeprefix("./")
        top = next((top for top in masters if name.startswith(f"{top}/")), None)
        rows.setdefault(name if top is None else name[len(top) + 1 :], []).append(_row(place, said))
    return ImportedSubjects(file, rows)


def _lines(file: Path, text: str) -> Iterator[tuple[str, Mapping[str, object]]]:
    numbered = numbered_rows(file, text)
    first, head = next(numbered, (1, []))
    names = [name.lower() for name in head]
    if "file" not in names or not any(set(names) >= set(some) for some in (_BOX, _POINT)):
        missing = [name for name in ("file", *_BOX) if name not in names]
        near = next((hint for name in names if name not in NAMES and (hint := nearest(name, missing))), "")
        raise PlanError.at(f"{file}:{first}", f"no column {', '.join(missing)}", near or _HEAD)
    for line, cells in numbered:
        if any(cells):
            yield f"{file}:{line}", dict(zip(names, cells, strict=False))


def _objects(file: Path, text: str) -> Iterator[tuple[str, Mapping[str, object]]]:
    try:
        said = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise PlanError.at(file, f"is no JSON ({error})", "write a list of objects, or CSV") from error
    if not isinstance(said, list):
        raise PlanError.at(file, "is no list", 'write a list such as [{"file": "boat.jpg", "x": 0.3, "y": 0.6}]')
    for number, one in enumerate(said, start=1):
        yield f"{file}: item {number}", one if isinstance(one, dict) else {}


def _row(place: str, said: Mapping[str, object]) -> ImportedRow:
    """A row, by its box, or else by its point."""
    names = _BOX if any(said.get(name) not in (None, "") for name in _BOX) else _POINT
    numbers = [_number(place, name, said.get(name)) for name in names]
    left, top, right, bottom = numbers if len(numbers) == len(_BOX) else numbers * 2
    if names == _BOX and (left >= right or top >= bottom):
        raise PlanError.at(
            place, "left is not less than right, or top not less than bottom", "write the corners in order"
        )
    sure = said.get("sure")
    share = None if sure in (None, "") else _number(place, "sure", sure)
    if share is not None and not 0 <= share <= 1:
        raise PlanError.at(place, f"sure: got {share:g}", "write a share from 0 to 1")
    return ImportedRow(place, Box(left, top, right, bottom), max(right, bottom) > _MOST_OF_FRACTIONS, share)


def _number(place: str, name: str, said: object) -> float:
    try:
        number = float(str(said).strip())
    except ValueError:
        number = math.nan
    if not math.isfinite(number):
        got = "nothing" if said in (None, "") else f"'{shortened(str(said))}'"
        raise PlanError.at(place, f"{name}: got {got}", "write a number: a fraction from 0 to 1, or px")
    return number
