"""Pages of the documentation that are written elsewhere: examples, commands, changes, the plan's schema. A hook of mkdocs."""

from __future__ import annotations

import os
import re
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.cli.options import parser_for
from sarvel.cli.overview import SAYS
from sarvel.plan.json_schema import FILE_NAME, schema_text

if TYPE_CHECKING:
    from mkdocs.config.defaults import MkDocsConfig
    from mkdocs.structure.files import Files
    from mkdocs.structure.pages import Page

ROOT = Path(__file__).parents[1]
_EXAMPLE = re.compile(r"\((?:\.\./)+examples/(?:([\w-]+)/)?README\.md\)")


def pages() -> dict[str, str]:
    """Text by path in the documentation."""
    found = {
        "commands.md": _commands(),
        "changelog.md": (ROOT / "CHANGELOG.md").read_text("utf-8"),
        FILE_NAME: schema_text(),
    }
    for file in sorted((ROOT / "examples").glob("*/README.md")):
        found[f"examples/{file.parent.name}.md"] = file.read_text("utf-8")
    index = (ROOT / "examples" / "README.md").read_text("utf-8")
    found["examples/index.md"] = re.sub(r"\((\w[\w-]*)/README\.md\)", r"(\1.md)", index)
    return found


def _commands() -> str:
    """Every command as its help has it."""
    os.environ["COLUMNS"] = "100"  # the same on any terminal
    parts = ["# Commands\n\n`sarvel COMMAND --help-all` prints the same; so does `man sarvel-COMMAND`.\n"]
    for name in SAYS:
        helped = parser_for([name, "--help-all"]).commands[name].format_help()
        parts.append(f"## {name}\n\n" + "".join(f"    {line}\n" if line else "\n" for line in helped.splitlines()))
    return "\n".join(parts)


def on_page_markdown(markdown: str, page: Page, config: MkDocsConfig, files: Files) -> str:  # noqa: ARG001 - as mkdocs calls it
    """Leads links to worked examples to their pages here: mkdocs calls this."""
    up = "../" * page.file.src_uri.count("/")
    return _EXAMPLE.sub(lambda found: f"({up}examples/{found[1] or 'index'}.md)", markdown)


def on_files(files: Files, config: MkDocsConfig) -> Files:
    """Adds the pages: mkdocs calls this."""
    from mkdocs.structure.files import File

    for path, text in pages().items():
        files.append(File.generated(config, path, content=text))
    return files
