"""Tables for terminals. Cells are text and nothing else; numbers are never cut off, and neither are headers.

In a table that is wider than the terminal, lists wrap within their cells and long names lose their middle; if that is not
enough, columns are left out, the least important first, and a line below names them.
"""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Literal, TypeAlias

from sarvel.cli.ui.text import shortened, visible

if TYPE_CHECKING:
    from rich.table import Table as RichTable
    from rich.text import Text

Cell: TypeAlias = str | tuple[str, str]
"""A text, or a text and its style."""

_WHOLE_NAME, _LEAST_NAME = 24, 12  # letters: most file names are shorter; and what mostly tells one from another

_GAP = 1  # spaces between columns, next to the one that a column ends with


@dataclass(frozen=True)
class Column:
    """A column of a table.

    Attributes:
        title: its header; a line break starts another line.
        holds: "number" is right-aligned, and never shortened or left out; "name" may lose its middle; "list" wraps at
            spaces; "text" is never changed.
        spare: the larger, the sooner it is left out; 0 for never.
        style: of its cells, unless they have their own.
    """

    title: str
    holds: Literal["number", "name", "list", "text"] = "text"
    spare: int = 0
    style: str = ""


@dataclass
class Table:
    """A table; rows have a cell for each column.

    Attributes:
        title: is above it; "" for none.
    """

    columns: Sequence[Column]
    title: str = ""
    _rows: list[Sequence[Cell]] = field(default_factory=list)
    _total: Sequence[Cell] | None = None

    def add(self, *cells: Cell) -> None:
        """Adds a row."""
        self._rows.append(cells)

    def end(self, *cells: Cell) -> None:
        """Adds the row of totals."""
        self._total = cells

    def needed(self, room: int) -> int:
        """Its width on a terminal of `room` columns: no more, unless numbers and headers alone take more."""
        return self._sum(self._widths(room))

    def left_out(self, room: int) -> list[str]:
        """Headers of the columns that do not fit on a terminal of `room` columns."""
        shown = self._widths(room)
        return [" ".join(column.title.split()) for i, column in enumerate(self.columns) if i not in shown]

    def laid_out(self, room: int) -> RichTable:
        """The table for a terminal of so many columns."""
        from rich import box  # slow to load
        from rich.table import Table as RichTable

        widths = self._widths(room)
        table = RichTable(
            box=box.SIMPLE_HEAD,
            padding=(0, _GAP, 0, 0),
            pad_edge=False,
            show_edge=False,
            title=self.title or None,
            title_justify="left",
        )
        for i, wide in widths.items():
            column = self.columns[i]
            justify: Literal["left", "right"] = "right" if column.holds == "number" else "left"
            table.add_column(column.title, justify=justify, style=column.style, width=wide, no_wrap=True)
        for row in self._rows:
            table.add_row(*(_laid_out(row[i], self.columns[i], wide) for i, wide in widths.items()))
        if self._total is not None:
            table.add_section()
            total = self._total
            table.add_row(*(_laid_out(total[i], self.columns[i], wide) for i, wide in widths.items()), style="bold")
        return table

    def _widths(self, room: int) -> dict[int, int]:
        """The width of each column that is shown, by its place."""
        shown = list(range(len(self.columns)))
        spare = sorted((i for i in shown if self.columns[i].spare), key=lambda i: self.columns[i].spare)
        while True:
            least = {i: self._least(i, _WHOLE_NAME) for i in shown}
            if self._sum(least) <= room:
                return self._spread(least, room)
            if not spare:
                return self._spread({i: self._least(i, _LEAST_NAME) for i in shown}, room)
            shown.remove(spare.pop())

    def _spread(self, least: dict[int, int], room: int) -> dict[int, int]:
        """Widths of columns: at least the least ones, the rest of the room to columns that lack most."""
        widths = dict(least)
        wanted = {i: self._natural(i) for i in widths}
        left = room - self._sum(widths)
        while left > 0 and (lacking := [i for i in widths if widths[i] < wanted[i]]):
            most = max(lacking, key=lambda i: wanted[i] - widths[i])
            widths[most] += 1
            left -= 1
        return widths

    def _sum(self, widths: dict[int, int]) -> int:
        return sum(widths.values()) + (_GAP + 1) * max(0, len(widths) - 1)

    def _natural(self, i: int) -> int:
        from rich.cells import cell_len

        return max(map(cell_len, (*self.columns[i].title.split("\n"), *self._texts(i))))

    def _least(self, i: int, name: int) -> int:
        """The least width of a column: that of its header, its numbers, its longest word."""
        column, natural = self.columns[i], self._natural(i)
        title = max(map(len, column.title.split("\n")))
        if column.holds == "name":
            return min(natural, max(title, name))
        if column.holds == "list":
            return max([title, *(len(word) for text in self._texts(i) for word in text.split())])
        return natural

    def _texts(self, i: int) -> list[str]:
        cells = [row[i] for row in (*self._rows, *([self._total] if self._total is not None else []))]
        return [visible(cell if isinstance(cell, str) else cell[0]) for cell in cells]


def _laid_out(cell: Cell, column: Column, wide: int) -> Text:
    """A cell in so many columns."""
    from rich.text import Text

    text, style = (cell, "") if isinstance(cell, str) else cell
    text = visible(text)
    if column.holds == "name":
        text = shortened(text, wide)
    elif column.holds == "list":
        text = "\n".join(textwrap.wrap(text, wide, break_long_words=False, break_on_hyphens=False))
    return Text(text, style=style)
