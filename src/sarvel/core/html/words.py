"""Words of a page that are shown."""

from __future__ import annotations

import re

SCREEN = 400
"""Words that fill the first screen of a laptop: with 12 of them a line, and 30 lines a screen."""

MARKUP = re.compile(r"<(script|style|template)\b.*?</\1\s*>|<!--.*?-->|<[^>]*>", re.IGNORECASE | re.DOTALL)
"""Markup between words."""


def words_in(text: str) -> int:
    """How many words markup shows."""
    return len(MARKUP.sub(" ", text).split())
