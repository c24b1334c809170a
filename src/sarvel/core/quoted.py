"""Texts as TOML and HTML write them: for drafts, for lines that messages suggest, for attributes of woven markup."""

from __future__ import annotations

import html
import json

# Line ends too: a blank line would end a Markdown paragraph, and a line end in a tag must not leave its line.
_CODE = str.maketrans({"{": "&#123;", "}": "&#125;", "@": "&#64;", "\n": "&#10;", "\r": "&#13;"})


def quoted(text: str) -> str:
    """A basic string of TOML 1.0: the escapes of JSON are among its own, and only DEL must be escaped too."""
    return json.dumps(text, ensure_ascii=False).replace("\x7f", "\\u007f")


def escaped(value: str | None) -> str:
    """A text as an attribute's value, between double quotes."""
    return html.escape(value or "", quote=False).replace('"', "&quot;")


def literal(value: str) -> str:
    """A text as an attribute's value in which no template engine or component framework finds code."""
    return escaped(value).translate(_CODE)
