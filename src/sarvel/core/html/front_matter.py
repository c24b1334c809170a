"""Front matter: the settings that a template may begin with, between two lines of hyphens or of plus signs."""

from __future__ import annotations

import re

_FRONT_MATTER = re.compile(r"\A(---|\+\+\+)[ \t]*\r?\n(?:.*?\n)?\1[ \t]*(?:\r?\n|\Z)", re.DOTALL)


def front_matter_end(text: str) -> int:
    """End offset of the front matter of a text; 0 if it has none."""
    found = _FRONT_MATTER.match(text)
    return found.end() if found else 0
