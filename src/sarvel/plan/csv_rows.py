"""Tables next to a plan, as CSV: made by hand, by a program, or exported."""

from __future__ import annotations

import codecs
import csv
from collections.abc import Iterator
from pathlib import Path

from sarvel.errors import PlanError


def text_of(file: Path, key: str) -> str:
    """The text of a file, in UTF-8, or in UTF-16 with a byte order mark.

    Args:
        key: of the plan, which names the file.

    Raises:
        PlanError: it is missing or unreadable.
    """
    try:
        content = file.read_bytes()
        is_utf16 = content.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE))
        return content.decode("utf-16" if is_utf16 else "utf-8-sig")
    except OSError as error:
        why = error.strerror
    except UnicodeDecodeError as error:
        why = f"byte {error.start} is not UTF-8"
    raise PlanError.at(file, f"cannot be read ({why})", f"mend {key} or the file")


def numbered_rows(file: Path, text: str) -> Iterator[tuple[int, list[str]]]:
    """The rows of a table, each with its line; the first has the names. Commas, semicolons or tabs separate cells.

    Raises:
        PlanError: a line is no CSV.
    """
    lines = text.splitlines(keepends=True)
    # Exports begin with remarks, and lines that hold nothing.
    start = next((i for i, line in enumerate(lines) if line.strip(" ,;\t\r\n") and not line.startswith("#")), 0)
    names = lines[start] if lines else ""
    rows = csv.reader(lines[start:], delimiter=max(",;\t", key=names.count), skipinitialspace=True)
    try:
        for row in rows:
            yield start + rows.line_num, [cell.strip() for cell in row]
    except csv.Error as error:
        line = start + rows.line_num
        raise PlanError.at(f"{file}:{line}", f"is no line of CSV ({error})", "mend or take it away") from error
