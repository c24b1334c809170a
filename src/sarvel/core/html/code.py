"""Template code in a page: how far it goes. What stands in it is the engine's, whatever it looks like."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import TypeAlias

Beyond: TypeAlias = Callable[[str, int], int]
"""Takes a text and an offset; gives where what begins there ends, or the same offset if nothing of its kind begins there."""

# An opening that is never closed is text, but for PHP, whose files commonly end in code. Between double braces no others
# open, so that a stray pair swallows nothing.
_MARKED = r"\{\{!--.*?--\}\}|\{\{\{?(?:(?!\{\{).)*?\}\}\}?|\{%.*?%\}|\{#.*?#\}|<\?php\b.*?(?:\?>|\Z)|<\?.*?\?>|<%.*?%>"

# What engines leave as it is, and what they leave out.
_RAW = (
    r"\{%[-~+]?\s*(?P<word>raw|verbatim|comment)\b[^%]*%\}.*?\{%[-~+]?\s*end(?P=word)\b[^%]*%\}"
    r"|\{\{\{\{\s*raw\s*\}\}\}\}.*?\{\{\{\{\s*/raw\s*\}\}\}\}"
    r"|@verbatim\b.*?@endverbatim\b"
)

_PARENTHESES = r"\((?:[^()]|\((?:[^()]|\((?:[^()]|\([^()]*\))*\))*\))*\)"

_STRING = re.compile(r'"(?:[^"\\\n]|\\.)*"' + r"|'(?:[^'\\\n]|\\.)*'", re.DOTALL)
_COMMENT = re.compile(r"//[^\n]*|/\*.*?\*/", re.DOTALL)
_NESTING = re.compile(r"""[{}"'`]|//|/\*""")


_HELD = re.compile(r"\{\{|\{%|<[?%]|^\{|\$\{")


def holds_code(value: str) -> bool:
    """Whether an attribute's value is known to the template engine alone, in whole or in part."""
    return bool(_HELD.search(value))


def matching(pattern: str) -> Beyond:
    """What passes over whatever matches a pattern, in which a point stands for line ends, too."""
    compiled = re.compile(pattern, re.DOTALL)

    def beyond(text: str, at: int) -> int:
        found = compiled.match(text, at)
        return found.end() if found else at

    return beyond


def no_code(_text: str, at: int) -> int:
    """Passes over nothing."""
    return at


marked_code = matching(_MARKED)
"""Passes over code between `{{ }}`, `{% %}`, `{# #}`, `<? ?>` and `<% %>`."""

raw_or_marked_code = matching(f"{_RAW}|{_MARKED}")
"""The same; and over all that stands between marks of raw text and of comments."""

code_with_calls = matching(rf"{_MARKED}|@\w*\s*{_PARENTHESES}|\{{!!.*?!!\}}")
"""As marked_code; and over `@if(…)`, `@(…)` and `{!! … !!}`."""


def braces(text: str, at: int) -> int:
    """Passes over a JavaScript expression in braces, with what strings, comments and templates hold."""
    if not text.startswith("{", at):
        return at
    depth, end = 0, at
    while found := _NESTING.search(text, end):
        end = found.end()
        match found.group():
            case "{":
                depth += 1
            case "}":
                depth -= 1
                if not depth:
                    return end
            case "`":
                end = template(text, found.start())
            case _:
                end = max(end, string_or_comment(text, found.start()))
    return at


def string_or_comment(text: str, at: int) -> int:
    """Passes over a string or a comment of JavaScript."""
    found = _STRING.match(text, at) or _COMMENT.match(text, at)
    return found.end() if found else at


def template(text: str, at: int) -> int:
    """Passes over a template of JavaScript, in backticks; to the end of the text, if it is never closed."""
    end = at + 1
    while end < len(text):
        if text[end] == "`":
            return end + 1
        if text[end] == "\\":
            end += 2
        elif text.startswith("${", end):
            end = max(end + 2, braces(text, end + 1))
        else:
            end += 1
    return len(text)
