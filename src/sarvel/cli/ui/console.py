"""The console: results go to standard output, progress and messages to standard error."""

from __future__ import annotations

import argparse
import contextlib
import io
import os
import shutil
import sys
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

from sarvel.cli.ui.condensed import condensed
from sarvel.cli.ui.styles import GOOD, MARK, TAKEN
from sarvel.cli.ui.text import as_json, one_line, visible
from sarvel.notices import Notice
from sarvel.version import __version__

if TYPE_CHECKING:
    from rich.text import Text

    from sarvel.cli.ui.table import Table


@dataclass(frozen=True)
class Console:
    """The console of one command, which hears how jobs go.

    Attributes:
        json: one JSON document, nothing else.
        strict: whether a notice makes the exit code 1.
    """

    json: bool
    quiet: bool
    verbose: bool
    strict: bool = False
    _told: list[Notice] = field(default_factory=list)

    @classmethod
    def of(cls, options: argparse.Namespace) -> Console:
        """The console that a command's options ask for."""
        return cls(options.json, options.quiet, options.verbose, options.strict)

    @property
    def is_for_people(self) -> bool:
        """Tells whether results are printed for people."""
        return not (self.json or self.quiet)

    def code(self, *, failed: bool) -> int:
        """The exit code: 1 if something that was asked for was not done, or --strict was given and a notice printed."""
        return 1 if failed or (self.strict and self._told) else 0

    def document(self, **content: Any) -> None:  # noqa: ANN401 - anything that JSON can hold
        """Prints the result as JSON, if that was asked for."""
        if self.json:
            print(as_json({"sarvel": __version__, **content}))

    def result(self, text: str) -> None:
        """Prints a result for people."""
        if self.is_for_people:
            sys.stdout.write(f"{visible(text)}\n")

    def show(self, what: Table | Text) -> None:
        """Prints a table between blank lines, or a styled line, for people: 120 columns where there is no terminal."""
        if not self.is_for_people:
            return
        from rich.console import Console as RichConsole  # slow to load, and --json needs none
        from rich.text import Text

        room = width()
        shown = what if isinstance(what, Text) else what.laid_out(room)
        wide = room if isinstance(what, Text) else max(room, what.needed(room))
        stream = io.StringIO()
        rich = RichConsole(file=stream, force_terminal=sys.stdout.isatty() or None, width=wide, highlight=False)
        rich.print(shown)
        if not isinstance(what, Text) and (gone := what.left_out(room)):
            rich.print(Text(f"Not shown at this width: {' · '.join(gone)}", style="dim"))
        sys.stdout.write(stream.getvalue() if isinstance(what, Text) else f"\n{stream.getvalue()}\n")

    def line(self, *parts: str | tuple[str, str]) -> None:
        """Prints a line for people that is never wrapped, because it may be copied: texts, or pairs of a text and its style."""
        if not self.is_for_people:
            return
        from rich.console import Console as RichConsole
        from rich.text import Text

        shown = [visible(one) if isinstance(one, str) else (visible(one[0]), one[1]) for one in parts]
        RichConsole(highlight=False, soft_wrap=True).print(Text.assemble(*shown))

    def diff(self, text: str) -> None:
        """Prints a unified diff, in color on a terminal; its lines are never wrapped."""
        if not self.is_for_people:
            return
        from rich.console import Console as RichConsole
        from rich.text import Text

        console = RichConsole(highlight=False, soft_wrap=True)
        for line in map(visible, text.split("\n")[:-1]):
            style = {"+": GOOD, "-": TAKEN, "@": MARK}.get(line[:1], "")
            console.print(Text(line.removesuffix("\\r"), style="bold" if line.startswith(("+++", "---")) else style))

    def step(self, text: str) -> None:
        """Prints a step, if --verbose asked for it."""
        if self.verbose:
            warn(text)

    def trouble(self, notices: Iterable[Notice]) -> None:
        """Prints problems; never silenced. --verbose prints each on a line of its own, the rare ones too."""
        notices = tuple(one for one in notices if self.verbose or one.matters)
        self._told.extend(notices)
        for line in map(str, notices) if self.verbose else condensed(notices):
            warn(line)

    def notes(self, notices: Iterable[Notice]) -> None:
        """Prints what the user should know and need not act on; nothing with --quiet."""
        notices = tuple(one for one in notices if self.verbose or one.matters)
        if self.quiet:
            self._told.extend(notices)
        else:
            self.trouble(notices)

    @contextlib.contextmanager
    def progress(self, label: str, total: int, *, timed: bool = True) -> Iterator[Callable[[int, str], None]]:
        """Shows a progress bar on a terminal. The block gets a function to call with a number of things done and their name."""
        if not self.is_for_people or not sys.stderr.isatty() or not total:
            yield lambda _count, _what: None
            return
        from rich.console import Console as RichConsole  # slow to load, and only terminals need it
        from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

        columns = (
            *(TextColumn("{task.description}"), BarColumn(), MofNCompleteColumn()),
            *((TimeRemainingColumn(),) if timed else ()),
            TextColumn("{task.fields[what]}", style="dim", markup=False),
        )
        with Progress(*columns, console=RichConsole(stderr=True), transient=True) as bar:
            task = bar.add_task(label, total=total, what="")
            yield lambda count, what: bar.update(task, advance=count, what=visible(what))


def warn(message: str) -> None:
    """Prints a message at once, regardless of --quiet and --json."""
    print(one_line(message), file=sys.stderr)


def width() -> int:
    """Columns of the terminal that results go to; 120 where they go elsewhere."""
    columns = os.environ.get("COLUMNS", "")
    if columns.isdecimal():
        return int(columns)
    return shutil.get_terminal_size().columns if sys.stdout.isatty() else 120
