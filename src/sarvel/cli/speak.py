"""How commands speak: results to standard output, progress and messages to standard error."""

from __future__ import annotations

import argparse
import contextlib
import functools
import json
import math
import os
import re
import shutil
import sys
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from sarvel import __version__

if TYPE_CHECKING:
    from rich.table import Table
    from rich.text import Text


# Letters that act on a terminal: all controls but line end and tab (Unicode, categories Cc and, of Cf, what turns the
# direction of writing).
_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]")


_BASE64 = re.compile(r"(data:[\w/+.;=-]{0,100}base64,)([A-Za-z0-9+/=_%-]{9,})")


@dataclass(frozen=True)
class Speaker:
    """What the options say of how much to say.

    Attributes:
        json: one JSON document, nothing else.
        quiet: only what is wrong.
        verbose: each step.
    """

    json: bool
    quiet: bool
    verbose: bool

    @classmethod
    def of(cls, options: argparse.Namespace) -> Speaker:
        """The speaker that a command's options ask for."""
        return cls(options.json, options.quiet, options.verbose)

    def document(self, **content: Any) -> None:  # noqa: ANN401 - whatever JSON can hold
        """The result as JSON, if that was asked for."""
        if self.json:
            print(json.dumps({"sarvel": __version__, **content}, ensure_ascii=False, indent=2))  # noqa: T201

    def result(self, text: str) -> None:
        """A result for a person."""
        if not self.json and not self.quiet:
            print(visible(text))  # noqa: T201 - this is where printing is done

    def rich(self, what: Table | Text) -> None:
        """A table or a styled line for a person; as wide as the terminal, or 120 columns where there is none."""
        if not self.json and not self.quiet:
            from sarvel.cli.console import PlainConsole  # noqa: PLC0415 - slow to load, and --json needs none

            PlainConsole(width=console_width(), highlight=False).print(what)

    def diff(self, text: str) -> None:
        """A unified diff, in color on a terminal; its lines are never wrapped."""
        if not self.json and not self.quiet:
            from rich.console import Console  # noqa: PLC0415 - as above
            from rich.text import Text  # noqa: PLC0415 - as above

            console = Console(highlight=False, soft_wrap=True)
            for line in map(visible, text.split("\n")[:-1]):
                style = {"+": "green", "-": "red", "@": "cyan"}.get(line[:1], "")
                console.print(
                    Text(line.removesuffix("\\r"), style="bold" if line.startswith(("+++", "---")) else style)
                )

    def step(self, text: str) -> None:
        """What is being done, for who asked for every step."""
        if self.verbose:
            print(visible(text), file=sys.stderr)  # noqa: T201 - as above

    def trouble(self, messages: Iterable[str]) -> None:
        """What needs the user; never silenced."""
        for message in messages:
            print(visible(message), file=sys.stderr)  # noqa: T201 - as above

    def notes(self, messages: Iterable[str]) -> None:
        """What the user should know and may leave so."""
        if not self.quiet:
            self.trouble(messages)

    @contextlib.contextmanager
    def progress(self, label: str, total: int) -> Iterator[Callable[[int, str], None]]:
        """A bar on a terminal; the block is given what to call with a number of things done, and what they were."""
        if self.json or self.quiet or not sys.stderr.isatty() or not total:
            yield lambda _count, _what: None
            return
        from rich.console import Console  # noqa: PLC0415 - slow to load, and only terminals need it
        from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn  # noqa: PLC0415

        columns = (
            *(TextColumn("{task.description}"), BarColumn(), MofNCompleteColumn(), TimeRemainingColumn()),
            TextColumn("{task.fields[what]}", style="dim", markup=False),
        )
        with Progress(*columns, console=Console(stderr=True), transient=True) as bar:
            task = bar.add_task(label, total=total, what="")
            yield lambda count, what: bar.update(task, advance=count, what=visible(what))


def warn(message: str) -> None:
    """Says at once what the user should know, whatever options say of how much to say."""
    print(visible(message), file=sys.stderr)  # noqa: T201 - as above


def visible(text: str) -> str:
    """A text in which no file name and no page can move the cursor, color the terminal or hide what follows."""
    return _CONTROL.sub(lambda found: found.group().encode("unicode_escape").decode(), text)


@functools.lru_cache(maxsize=4)
def legible(text: str) -> str:
    """A text, as long, in which no letter acts on a terminal, and files that it holds as base64 are dots."""
    dotted = _BASE64.sub(lambda found: found.group(1) + "·" * len(found.group(2)), text)
    return _CONTROL.sub("�", dotted)


def without_files(text: str) -> str:
    """A text without the files that it holds as base64."""
    return _BASE64.sub(r"\1…", text)


def console_width() -> int:
    """Columns of the terminal that results go to; 120 where they go elsewhere."""
    columns = os.environ.get("COLUMNS", "")
    if columns.isdecimal():
        return int(columns)
    return shutil.get_terminal_size().columns if sys.stdout.isatty() else 120


def percent(share: float) -> str:
    """A share in whole percent, rounded down: 99.6 % saved is not all."""
    return f"{math.floor(share * 100)}%"


def size(count: float) -> str:
    """A number of bytes in kB or MB of 1000, as network panels count."""
    return (
        f"{count / 1e6:.1f} MB"
        if count >= 999_500
        else f"{count / 1e3:.0f} kB"
        if count >= 9_950
        else f"{count / 1e3:.1f} kB"
    )
