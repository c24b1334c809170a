"""The line of each key in a TOML text, which tomllib does not provide."""

from __future__ import annotations

import re
from collections.abc import Mapping

_KEY = r"""(?:[A-Za-z0-9_-]+|"(?:[^"\\]|\\.)*"|'[^']*')"""
_KEYS = rf"{_KEY}(?:\s*\.\s*{_KEY})*"
_HEADER = re.compile(rf"^\s*\[(\[)?\s*({_KEYS})\s*\]")
_PAIR = re.compile(rf"^\s*({_KEYS})\s*=")

KeyPath = tuple[str | int, ...]


def lines_of_keys(text: str) -> dict[KeyPath, int]:
    """The line of each table and key, from 1, by its path. Good for valid TOML; a key in a multi-line string may slip in."""
    lines: dict[KeyPath, int] = {}
    arrays: dict[KeyPath, int] = {}
    table: KeyPath = ()
    for number, line in enumerate(text.splitlines(), start=1):
        if header := _HEADER.match(line):
            table = _path(header.group(2))
            if header.group(1):
                lines.setdefault(table, number)
                arrays[table] = arrays.get(table, -1) + 1
                table = (*table, arrays[table])
            lines.setdefault(table, number)
        elif pair := _PAIR.match(line):
            lines.setdefault((*table, *_path(pair.group(1))), number)
    return lines


def line_of(lines: Mapping[KeyPath, int], path: KeyPath) -> int | None:
    """The line of a key; else the first line within it; else that of the nearest table around it."""
    while path:
        held = [line for key, line in lines.items() if key[: len(path)] == path]
        if held:
            return min(held)
        path = path[:-1]
    return None


def _path(keys: str) -> KeyPath:
    return tuple(key[1:-1] if key[0] in "\"'" else key for key in re.findall(_KEY, keys))
