"""Tables as they are printed: cells are text, numbers and headers are never crop, lists wrap."""

import io

import pytest
from rich.console import Console as RichConsole

from sarvel.cli.ui.table import Column, Table

COLUMNS = [
    Column("master", "name"), Column("viewports", spare=2), Column("crop, px", spare=1),
    Column("widths, px", "list"), Column("files", "number"), Column("one\nfile", "number"),
]  # fmt: skip
ROWS = [
    ("boat[draft].jpg", "640 px and up", "900×600 at 0, 0", "320 480 640 960 1280 1600", "18", "312%"),
    (
        "a-very-long-name-of-a-photograph-by-somebody-[red]x.jpg",
        "up to 639 px",
        "600×600 at 0, 300",
        "320 640 soft",
        "6",
        "9.9%",
    ),
]


def printed(room: int) -> list[str]:
    table = Table(COLUMNS)
    for row in ROWS:
        table.add(*row)
    table.end("all", "", "", "", "24", "")
    stream = io.StringIO()
    RichConsole(file=stream, width=max(room, table.needed(room)), highlight=False).print(table.laid_out(room))
    return stream.getvalue().splitlines()


@pytest.mark.parametrize("room", [200, 120, 100, 80, 60, 50])
def test_numbers_and_headers_stay_whole_at_any_width(room: int) -> None:
    lines = printed(room)
    text = "\n".join(lines)
    assert max(map(len, lines)) <= room
    for word in (
        "master",
        "widths, px",
        "files",
        "one",
        "18",
        "312%",
        "9.9%",
        "24",
        "1600",
        "[draft]" if room > 60 else "]",
    ):
        assert word in text, (word, text)
    assert ("viewports" in text, "crop, px" in text) == (room >= 100, room >= 80)
    assert "…" not in text or room < 200


def test_a_list_wraps_within_its_cell() -> None:
    lines = printed(60)
    start = next(line for line in lines if "widths, px" in line).index("widths, px")
    cells = " ".join(line[start : start + 12].strip() for line in lines if line.strip())
    assert "320 480 640" in cells.replace("  ", " ") and "1280" in cells and "1600" in cells


def test_what_cells_hold_is_text() -> None:
    table = Table([Column("master", "name"), Column("is")])
    table.add("[bold]\x1b[31mred.jpg", (":boat:", "green"))
    stream = io.StringIO()
    RichConsole(file=stream, width=80).print(table.laid_out(80))
    assert "[bold]\\x1b[31mred.jpg" in stream.getvalue() and ":boat:" in stream.getvalue()
