"""A step of the build: manual pages, made from the parser of the command line, go into the wheel."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from hatchling.builders.hooks.plugin.interface import BuildHookInterface

ROOT = Path(__file__).parent


def pages() -> Iterator[tuple[str, str]]:
    """Manual pages of the program and of each command: file names, and their source for roff."""
    sys.path.insert(0, str(ROOT / "src"))
    try:
        from sarvel import __version__
        from sarvel.cli.examples import EXAMPLES
        from sarvel.cli.options import parser_for
    finally:
        sys.path.pop(0)
    whole = parser_for([])
    commands = _commands(whole)
    whole._remove_action(commands)  # noqa: SLF001 - has no public name; they have a section of their own
    listed = "\n".join(f".TP\n.B {one.dest}\n{_roff(one.help or '')}" for one in commands._get_subactions())  # noqa: SLF001 - as above
    others = "\n".join(f".BR sarvel-{name} (1)" for name in EXAMPLES)
    yield "sarvel.1", _page(whole, __version__, [("commands", listed), ("see also", others)])
    for name, examples in EXAMPLES.items():
        shown = "\n".join(f".TP\n.B {_roff(call)}\n{_roff(says)}" for call, says in examples)
        yield (
            f"sarvel-{name}.1",
            _page(
                parser_for([name, "--help-all"]).commands[name],
                __version__,
                [("examples", shown), ("see also", ".BR sarvel (1)")],
            ),
        )


def _commands(parser: argparse.ArgumentParser) -> argparse._SubParsersAction[argparse.ArgumentParser]:
    return next(one for one in parser._actions if isinstance(one, argparse._SubParsersAction))  # noqa: SLF001 - as above


def _page(parser: argparse.ArgumentParser, version: str, sections: list[tuple[str, str]]) -> str:
    from argparse_manpage.manpage import Manpage

    name = parser.prog.replace(" ", "-")
    parser.epilog = None
    about = {"project_name": "sarvel", "version": version, "manual_title": "Sarvel", "description": parser.description}
    page = Manpage(parser, about)
    page.prog = name
    page.date = ""  # the same input gives the same bytes
    for heading, text in sections:
        page.add_section(heading, "=", text)
    return str(page)


def _roff(text: str) -> str:
    """Text with what roff reads as its own escaped: groff_char(7)."""
    text = text.replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{text}" if text.startswith((".", "'")) else text


class ManualPages(BuildHookInterface[Any]):
    """Adds them to a wheel."""

    PLUGIN_NAME = "custom"

    def initialize(self, version: str, build_data: dict[str, Any]) -> None:
        """Makes the pages; none for an installation that is edited in place."""
        if version == "editable":
            return
        folder = Path(self.directory, "man")
        folder.mkdir(parents=True, exist_ok=True)
        for name, text in pages():
            (folder / name).write_text(text, "utf-8")
            build_data["shared_data"][str(folder / name)] = f"share/man/man1/{name}"
