"""CSS text as tokens, with a limit that keeps faulty or hostile text from exhausting the stack."""

from __future__ import annotations

import re
from collections.abc import Iterable

import tinycss2
from tinycss2.ast import LiteralToken, Node

DEEPEST = 60
"""Brackets within brackets that are still read; no one writes more, and tinycss2 reads them by recursion."""

_BRACKETS = re.compile(r"[(\[{)\]}]")


_PIECE = re.compile(r"""/\*|"(?:[^"\\\n]|\\.)*"|'(?:[^'\\\n]|\\.)*'|["'()\[\]{}]""")
_FELLOW = {")": "(", "]": "[", "}": "{"}


def loose_end(css: str) -> str:
    """The part of a text that would reach beyond its end among other CSS, in words; "" for none."""
    opened: list[str] = []
    for piece in _PIECE.findall(css):
        if piece == "/*":
            return "a comment"
        if piece in ('"', "'"):
            return "a quote that is never closed"
        if piece in "([{":
            opened.append(piece)
        elif piece in _FELLOW and (not opened or opened.pop() != _FELLOW[piece]):
            return f"a '{piece}' that nothing opens"
    return f"a '{opened[-1]}' that is never closed" if opened else ""


def tokens_of(css: str) -> list[Node]:
    """The component values of a text without comments; for one nested too deeply a lone `!`, which is valid nowhere."""
    text = "!" if is_too_deep(css) else css
    return list(tinycss2.parse_component_value_list(text, skip_comments=True))


def is_too_deep(css: str) -> bool:
    """Tells whether brackets are within brackets more often than is read."""
    depth = 0
    for bracket in _BRACKETS.findall(css):
        depth = depth + 1 if bracket in "([{" else max(0, depth - 1)
        if depth > DEEPEST:
            return True
    return False


def parted(tokens: Iterable[Node]) -> list[list[Node]]:
    """Splits tokens at commas outside brackets."""
    parts: list[list[Node]] = [[]]
    for token in tokens:
        if isinstance(token, LiteralToken) and token.value == ",":
            parts.append([])
        else:
            parts[-1].append(token)
    return parts
