"""The terminal as results go to it: what names and pages say is text there, and nothing else."""

from __future__ import annotations

from typing import Any

from rich.console import Console
from rich.text import Text

from sarvel.cli.speak import visible


class PlainConsole(Console):
    """A console that takes no text for markup, and lets none act on the terminal."""

    def render_str(self, text: str, **options: Any) -> Text:  # noqa: ANN401 - as in the base
        """A text of a table's cell, as it is."""
        return super().render_str(visible(text), **{**options, "markup": False, "emoji": False})
