"""Template code in a page: where it ends. Its content belongs to the engine.

A page may hold thousands of openings that are never closed. Findings about a text are therefore kept while it is
read: where each kind of closing stands, and how far braces and templates go. Reading takes time in proportion to the text.
"""

from __future__ import annotations

import bisect
import functools
import re
from collections.abc import Callable, Mapping
from types import MappingProxyType
from typing import TypeAlias

Beyond: TypeAlias = Callable[[str, int], int]
"""Takes a text and an offset; returns the end offset of the code that starts there, or the same offset if none does."""

_TEXTS = 16  # texts whose findings are kept: a page and a few of its parts are read at a time

# An opening that is never closed is text, but for PHP, whose files commonly end in code.
_MARK = re.compile(r"\{\{|\{%|\{#|<\?php\b|<\?|<%")
_CLOSING: Mapping[str, re.Pattern[str]] = MappingProxyType(
    {
        "{%": re.compile(r"%\}"),
        "{#": re.compile(r"#\}"),
        "<?php": re.compile(r"\?>"),
        "<?": re.compile(r"\?>"),
        "<%": re.compile(r"%>"),
        "{!!": re.compile(r"!!\}"),
        "{{!--": re.compile(r"--\}\}"),
        "{{--": re.compile(r"--\}\}"),
        "{{/*": re.compile(r"\*/\s*-?\}\}"),
        "/*": re.compile(r"\*/"),
    }
)
_DOUBLE = re.compile(r"\{\{|\}\}")

# Openings of code that engines print literally, or leave out; and their closings.
_RAW_BLOCK = re.compile(r"\{%[-~+]?\s*(raw|verbatim|comment)\b[^%]*%\}")
_RAW_END = {word: re.compile(rf"\{{%[-~+]?\s*end{word}\b[^%]*%\}}") for word in ("raw", "verbatim", "comment")}
_RAW_NAMED = re.compile(r"\{\{\{\{\s*([\w./-]+)[^{}]*\}\}\}\}")
_VERBATIM = re.compile(r"@verbatim\b")
_VERBATIM_END = re.compile(r"@endverbatim\b")
_PHP = re.compile(r"@php\b(?!\s*\()")
_PHP_END = re.compile(r"@endphp\b")
_COMMENTS = frozenset("!-/")  # what a comment begins with, behind its braces
_COMMENT = re.compile(r"\{\{(?:!--|--|-?\s*/\*)")

_CALL = re.compile(r"@\w*\s*\((?:[^()]|\((?:[^()]|\((?:[^()]|\([^()]*\))*\))*\))*\)")

_IN_PHP = re.compile(r"""\?>|//|\#(?!\[)|/\*|['"`]|<<<[ \t]*(["']?)(?P<name>[A-Za-z_]\w*)\1""")
_PHP_LINE_END = re.compile(r"[\r\n]|\?>")
_PHP_STRING = {mark: re.compile(rf"(?:[^\\{mark}]|\\.)*{mark}", re.DOTALL) for mark in ("'", '"', "`")}

_STRING = re.compile(r'"(?:[^"\\\n]|\\.)*"' + r"|'(?:[^'\\\n]|\\.)*'", re.DOTALL)
_LINE_COMMENT = re.compile(r"//[^\n]*")
_IN_CODE = re.compile(r"""[{}"'`]|//|/\*""")
_IN_TEMPLATE = re.compile(r"\\.|`|\$\{", re.DOTALL)

_HELD = re.compile(r"\{\{|\{%|<[?%]|^\{|\$\{|'\s*\.[^'].{0,300}?\.\s*'", re.DOTALL)
_PHP_OPEN = re.compile(r"<\?(?:php\b|=)")
# The code by which PHP joins two parts of a text; short, so that a stray quote swallows little.
_JOINED_BY = re.compile(r"""'\s*\.(?:[^'"\\;<]|->|'[^'\\\n]*'|"[^"\\\n]*"){1,300}?\.\s*'""")


@functools.lru_cache(maxsize=512)
def holds_code(value: str) -> bool:
    """Tells whether an attribute's value is known to the template engine alone, in whole or in part."""
    return bool(_HELD.search(value))


@functools.lru_cache(maxsize=4 * _TEXTS)
def _matches(text: str, pattern: re.Pattern[str]) -> tuple[list[int], list[int]]:
    """Start and end offsets of all matches of a pattern in a text."""
    spans = [found.span() for found in pattern.finditer(text)]
    return [start for start, _ in spans], [end for _, end in spans]


def closing(text: str, at: int, pattern: re.Pattern[str]) -> int:
    """End offset of the first match of a pattern that starts at an offset or behind it, or -1.

    As quick as looking it up, however often it is asked of one text.
    """
    starts, ends = _matches(text, pattern)
    place = bisect.bisect_left(starts, at)
    return ends[place] if place < len(ends) else -1


def marked_code(text: str, at: int) -> int:
    """Passes over code between `{{ }}`, `{% %}`, `{# #}`, `<? ?>` and `<% %>`."""
    found = _MARK.match(text, at)
    if not found:
        return at
    mark = found.group()
    if mark == "{{":
        return _double_braces(text, at)
    if mark == "<?php" or text.startswith("<?=", at):
        return _php_end(text, at + len(mark))
    end = closing(text, found.end(), _CLOSING[mark])
    return end if end >= 0 else (len(text) if mark == "<?php" else at)


def joined_or_marked_code(text: str, at: int) -> int:
    """Passes over code as marked_code does, and over what PHP puts between two parts of a text in single quotes."""
    found = _JOINED_BY.match(text, at)
    return found.end() if found else marked_code(text, at)


def beside_code(text: str, code: Beyond, start: int, end: int) -> str:
    """A stretch of a text without the code in it."""
    kept: list[str] = []
    while start < end:
        further = code(text, start)
        kept.append(text[start] if further <= start else "")
        start = max(further, start + 1)
    return "".join(kept)


def php_texts(text: str) -> list[tuple[int, int]]:
    """Start and end offsets of the texts in single quotes that PHP code holds, without the quotes, in order."""
    found: list[tuple[int, int]] = []
    at = 0
    while opening := _PHP_OPEN.search(text, at):
        at = _php_end(text, opening.end(), found)
    return found


def _php_end(text: str, at: int, texts: list[tuple[int, int]] | None = None) -> int:
    """End offset of PHP, which begins at an offset; the end of the text if it is never left, as in most files of code.

    PHP manual, "Basic syntax": a closing tag in a string, a heredoc or a comment of several lines ends nothing; in a comment
    of one line it does.

    Args:
        texts: takes start and end of texts in single quotes.
    """
    known, key = _known_ends(text), -1 - at  # offsets of braces are not negative
    if key in known and texts is None:
        return known[key]
    place = at
    while (found := _IN_PHP.search(text, place)) is not None:
        mark, place = found.group(), found.end()
        if mark == "?>":
            break
        if mark in ("//", "#"):
            place = _past_line(text, place)
        elif mark == "/*":
            place = max(place, closing(text, place, _CLOSING["/*"]))
        elif mark in ("'", '"', "`"):
            string = _PHP_STRING[mark].match(text, place)
            if string and mark == "'" and texts is not None:
                texts.append((place, string.end() - 1))
            place = string.end() if string else place
        elif (end := closing(text, place, _heredoc_end(found["name"]))) >= 0:
            place = end
    else:
        place = len(text)
    known[key] = place
    return place


def _past_line(text: str, at: int) -> int:
    """End offset of a comment of one line: at the end of the line, or where PHP is left."""
    found = _PHP_LINE_END.search(text, at)
    return found.start() if found else len(text)


@functools.lru_cache(maxsize=64)
def _heredoc_end(name: str) -> re.Pattern[str]:
    return re.compile(rf"^[ \t]*{re.escape(name)}\b", re.MULTILINE)


def _double_braces(text: str, at: int) -> int:
    """Passes over code in two or three braces. No others open in it, so that a stray pair swallows nothing."""
    if text[at + 2 : at + 3] in _COMMENTS and (comment := _COMMENT.match(text, at)):
        kind = comment.group().replace("-", "").replace(" ", "") if comment.group().endswith("*") else comment.group()
        if (end := closing(text, comment.end(), _CLOSING[kind])) >= 0:
            return end
    found = _DOUBLE.search(text, at + (3 if text.startswith("{{{", at) else 2))
    if not found or found.group() == "{{":
        return at
    return found.end() + text.startswith("}", found.end())


def raw_or_marked_code(text: str, at: int) -> int:
    """Passes over code as marked_code does, and over raw text and comments between their marks."""
    if text.startswith("{%", at):
        block = _RAW_BLOCK.match(text, at)
        if block and (end := closing(text, block.end(), _RAW_END[block.group(1)])) >= 0:
            return end
    elif text.startswith("{{{{", at):
        named = _RAW_NAMED.match(text, at)
        if named and (end := closing(text, named.end(), _raw_named_end(named.group(1)))) >= 0:
            return end
    elif text.startswith("@", at):
        found = _VERBATIM.match(text, at)
        if found and (end := closing(text, found.end(), _VERBATIM_END)) >= 0:
            return end
    return marked_code(text, at)


@functools.lru_cache(maxsize=64)
def _raw_named_end(name: str) -> re.Pattern[str]:
    return re.compile(rf"\{{\{{\{{\{{\s*/{re.escape(name)}\s*\}}\}}\}}\}}")


def php_block(text: str, at: int) -> int:
    """Passes over `@php … @endphp`."""
    found = _PHP.match(text, at)
    return max(at, closing(text, found.end(), _PHP_END)) if found else at


def code_with_calls(text: str, at: int) -> int:
    """Passes over code as marked_code does, and over `@if(…)`, `@(…)` and `{!! … !!}`."""
    if (end := marked_code(text, at)) > at:
        return end
    if call := _CALL.match(text, at):
        return call.end()
    return max(at, closing(text, at + 3, _CLOSING["{!!"])) if text.startswith("{!!", at) else at


def braces(text: str, at: int) -> int:
    """Passes over a JavaScript expression in braces, with what strings, comments and templates hold."""
    return _nested_end(text, at) if text.startswith("{", at) else at


def template(text: str, at: int) -> int:
    """Passes over a template of JavaScript, in backticks; to the end of the text, if it is never closed."""
    return _nested_end(text, at)


def string_or_comment(text: str, at: int) -> int:
    """Passes over a string or a comment of JavaScript."""
    if text.startswith("/*", at):
        return max(at, closing(text, at + 2, _CLOSING["/*"]))
    found = _STRING.match(text, at) or _LINE_COMMENT.match(text, at)
    return found.end() if found else at


@functools.lru_cache(maxsize=_TEXTS)
def _known_ends(_text: str) -> dict[int, int]:
    """A cache for one text: end offsets of braces and templates, by start offset."""
    return {}


def _nested_end(text: str, at: int) -> int:
    """End offset of the braces or the template that start here; those within are remembered.

    Braces that are never closed end where they start, a template at the end of the text.
    """
    known = _known_ends(text)
    if at in known:
        return known[at]
    open_, end = [at], at + 1
    while open_:
        inside_template = text[open_[-1]] == "`"
        found = (_IN_TEMPLATE if inside_template else _IN_CODE).search(text, end)
        if not found:
            break
        end, mark = found.end(), found.group()
        if mark == "}" or (mark == "`" and inside_template):
            known[open_.pop()] = end
        elif mark in ("{", "${", "`"):
            open_.append(end - 1)
        elif not inside_template:
            end = max(end, string_or_comment(text, found.start()))
    known.update((start, len(text) if text[start] == "`" else start) for start in open_)
    return known[at]
