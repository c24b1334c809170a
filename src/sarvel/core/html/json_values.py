"""Values of a JSON text and their exact places, so that one value can be replaced and every other character stays."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, TypeAlias

Path: TypeAlias = tuple[str | int, ...]
"""Keys and numbers that lead to a value, from the outside inwards."""

_TOKEN = re.compile(r'"(?:[^"\\]|\\.)*"|[^\s{}\[\],:"]+|[{}\[\],]', re.DOTALL)


@dataclass(frozen=True)
class JsonValue:
    """One value.

    Attributes:
        start: offset of its first letter, in the text.
        end: offset behind its last letter.
        value: as Python has it; None of a list or an object.
    """

    path: Path
    start: int
    end: int
    value: Any


def json_values(text: str) -> Iterator[JsonValue]:
    """All values of a JSON text; lists and objects follow their members. Yields nothing if the text is not JSON."""
    try:
        json.loads(text)
    except (ValueError, RecursionError):
        return
    open_: list[tuple[int, Path, list[str | int]]] = []  # open lists and objects: start, path, current key or index
    is_key = False
    for token in _TOKEN.finditer(text):
        word = token.group()
        path: Path = (*open_[-1][1], *open_[-1][2]) if open_ else ()
        if word in ("{", "["):
            open_.append((token.start(), path, [0] if word == "[" else []))
            is_key = word == "{"
        elif word in ("}", "]"):
            start, path, _ = open_.pop()
            yield JsonValue(path, start, token.end(), None)
            is_key = False
        elif word == ",":
            now = open_[-1][2]
            is_key = not (now and isinstance(now[0], int))
            now[:] = [] if is_key else [int(now[0]) + 1]
        elif is_key:
            open_[-1][2][:] = [json.loads(word)]
            is_key = False
        else:
            yield JsonValue(path, token.start(), token.end(), json.loads(word))
