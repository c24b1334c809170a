"""CSS text as tokens, with a limit that keeps faulty or hostile text from exhausting the stack."""

from __future__ import annotations

import re
from collections.abc import Iterable

import tinycss2
from tinycss2.ast import LiteralToken, Node

DEEPEST = 60
"""Brackets within brackets that are still read; nobody writes more, and tinycss2 reads them by recursion."""

_BRACKETS = re.compile(r"[(\[{)\]}]")


def tokens_of(css: str) -> list[Node]:
    """The component values of a text, comments left out; of one nested too deeply a lone `!`, which nothing may hold."""
    text = "!" if is_too_deep(css) else css
    return list(tinycss2.parse_component_value_list(text, skip_comments=True))


def is_too_deep(css: str) -> bool:
    """Whether brackets stand within brackets more often than is read."""
    depth = 0
    for bracket in _BRACKETS.findall(css):
        depth = depth + 1 if bracket in "([{" else max(0, depth - 1)
        if depth > DEEPEST:
            return True
    return False


def parted(tokens: Iterable[Node]) -> list[list[Node]]:
    """Tokens between commas; commas within brackets part nothing."""
    parts: list[list[Node]] = [[]]
    for token in tokens:
        if isinstance(token, LiteralToken) and token.value == ",":
            parts.append([])
        else:
            parts[-1].append(token)
    return parts
