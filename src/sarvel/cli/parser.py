"""The parser of the command line: help with examples, and errors with suggestions."""

from __future__ import annotations

import argparse
import os
import re
import sys

from sarvel.cli.ui.text import one_line

TYPE_CHECKING = False  # see sarvel/__init__.py
if TYPE_CHECKING:
    from typing import NoReturn

_CHOICES = re.compile(r"invalid choice: '(.*?)' \(choose from (.*)\)", re.DOTALL)
_UNKNOWN = re.compile(r"unrecognized arguments: (.*)", re.DOTALL)


_RENAMED = {
    "watch": "build --watch",
    "--frozen": "--check",
    "--diff": "--dry-run",
    "--shown": "--sizes",
    "--load": "--loading",
    "--cut": "--crop",
    "--production": "sarvel deliver",
    "--suggest": "sarvel subjects",
    "--html": "sarvel subjects --page",
    "undo": "weave --undo",
    "clean": "build --prune",
    "init": "start",
}
"""Names that commands and options had before a release, or that people try."""


class Parser(argparse.ArgumentParser):
    """A parser that names the nearest command, option or word that it knows.

    Attributes:
        overview: the help to print instead of argparse's; "" for that.
    """

    overview = ""

    def format_help(self) -> str:
        """The help text."""
        return self.overview or super().format_help()

    def error(self, message: str) -> NoReturn:
        """Prints the mistake in one line, and exits with code 2."""
        self.exit(2, f"{one_line(f'{self.prog}: {self._in_words(message)}')}\n")

    def _in_words(self, message: str) -> str:
        if found := _CHOICES.search(message):
            said, known = found[1], [one.strip(" '\"") for one in found[2].split(",")]
            what = message[: found.start()].strip().removeprefix("argument ").rstrip(": ")
            if what == "COMMAND":
                return f"no command '{said}'; {_meant(said, known, 'sarvel --help lists them')}"
            return f"{what}: got '{said}'; {_meant(said, known, 'write ' + ', '.join(known))}"
        if found := _UNKNOWN.search(message):
            words = found[1].split()
            said = next((word.partition("=")[0] for word in words if word.startswith("-")), words[0])
            if not said.startswith("-"):
                if said.endswith((".html", ".htm", ".md", ".jsx", ".vue", ".php")):
                    return f"'{said}' is one word too many: this command takes no pages; sarvel weave and check do"
                return f"'{said}' is one word too many; see {self.prog} --help"
            known = [option for action in self._every() for option in action.option_strings]
            return f"no option {said}; {_meant(said, known, f'{self.prog} --help lists them')}"
        return f"{message}; {self.prog} --help tells more"

    @property
    def commands(self) -> dict[str, argparse.ArgumentParser]:
        """The parsers of commands, by name."""
        found = [one for one in self._actions if isinstance(one, argparse._SubParsersAction)]  # noqa: SLF001 - has no public name
        return {name: parser for one in found for name, parser in one.choices.items()}

    def _every(self) -> list[argparse.Action]:
        """The options of this parser, and of the command that was called."""
        return [action for one in (self, *self.commands.values()) for action in one._actions]  # noqa: SLF001 - as above


def _meant(said: str, known: list[str], otherwise: str) -> str:
    import difflib  # for mistakes alone

    if said in _RENAMED:
        return f"did you mean {_RENAMED[said]}?"
    near = difflib.get_close_matches(said, known, n=1)
    return f"did you mean {near[0]}?" if near else otherwise


class Help(argparse.RawDescriptionHelpFormatter):
    """Help as wide as the terminal: argparse would load shutil to learn that, a third of the time that --help takes."""

    def __init__(self, prog: str) -> None:
        columns = os.environ.get("COLUMNS", "")
        super().__init__(prog, width=(int(columns) if columns.isdecimal() else _terminal_columns()) - 2)


def examples_of(command: str) -> str:
    """The examples of a command, as its help ends with."""
    from sarvel.cli.examples import EXAMPLES

    lines = (f"  {call}\n      {says}" for call, says in EXAMPLES[command])
    return "examples:\n" + "\n".join(lines)


def _terminal_columns() -> int:
    try:
        return max(40, os.get_terminal_size(sys.__stdout__.fileno() if sys.__stdout__ else 1).columns)
    except (OSError, ValueError):
        return 100
