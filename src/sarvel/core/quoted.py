"""Texts as TOML writes them, for drafts and for lines that messages suggest."""

from __future__ import annotations

import json


def quoted(text: str) -> str:
    """A basic string of TOML 1.0: the escapes of JSON are among its own, and only DEL must be escaped too."""
    return json.dumps(text, ensure_ascii=False).replace("\x7f", "\\u007f")
