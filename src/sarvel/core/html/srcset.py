"""The `srcset` attribute: HTML's parsing, with dropped candidates (HTML, section 4.8.4.3.10 "Parsing a srcset attribute")."""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace

from sarvel.core.html.template_code import holds_code

_SPACE = "\t\n\f\r "
# "Valid non-negative integer": no sign. No one means one of more than 15 digits.
_INTEGER = re.compile(r"\d{1,15}\Z", re.ASCII)
_FLOAT = re.compile(r"-?(\d+|\d*\.\d+)([eE][-+]?\d+)?\Z", re.ASCII)  # "valid floating-point number": no plus sign


@dataclass(frozen=True)
class Candidate:
    """One candidate of a srcset.

    Attributes:
        url: as written.
        width: its `w` descriptor, px; None if it has none.
        density: its `x` descriptor; None if it has none.
        fault: why a browser drops it; "" if it does not.
        descriptors: as written.
        start: offset in the srcset at which it starts.
    """

    url: str
    width: int | None = None
    density: float | None = None
    fault: str = ""
    descriptors: tuple[str, ...] = field(default=(), compare=False)
    start: int = field(default=0, compare=False)
    end: int = field(default=0, compare=False)


def parse_srcset(text: str) -> list[Candidate]:
    """All candidates of a srcset in order; a candidate that a browser drops has a fault."""
    return list(_candidates(text))


def widest(text: str) -> str | None:
    """The URL of the largest descriptor; None if there is no sound candidate, or a template engine writes them."""
    listed = [] if holds_code(text) else [one for one in parse_srcset(text) if not one.fault]
    return max(listed, key=lambda one: one.width or one.density or 1).url if listed else None


@functools.lru_cache(maxsize=1024)
def _candidates(text: str) -> tuple[Candidate, ...]:
    return tuple(
        replace(_candidate(url, descriptors), start=start, end=start + len(text[start:end].rstrip(_SPACE)))
        for url, descriptors, start, end in _parts(text)
    )


def _parts(text: str) -> Iterator[tuple[str, list[str], int, int]]:
    """URLs with their descriptors, and where both start and end; white space may follow before the end."""
    at = 0
    while True:
        while at < len(text) and text[at] in _SPACE + ",":
            at += 1
        if at >= len(text):
            return
        start = at
        while at < len(text) and text[at] not in _SPACE:
            at += 1
        url = text[start:at]
        if url.endswith(","):
            yield (bare := url.rstrip(",")), [], start, start + len(bare)
        else:
            descriptors, at = _descriptors(text, at)
            yield url, descriptors, start, at - (text[at - 1] == "," and at > start + len(url))


def _descriptors(text: str, at: int) -> tuple[list[str], int]:
    """The descriptors up to the next comma outside brackets, and the offset behind it."""
    descriptors, current, inside = [], "", False
    while at < len(text):
        letter = text[at]
        at += 1
        if inside:
            current += letter
            inside = letter != ")"
        elif letter in _SPACE:
            descriptors.append(current)
            current = ""
        elif letter == ",":
            break
        else:
            current += letter
            inside = letter == "("
    return [descriptor for descriptor in (*descriptors, current) if descriptor], at


def _candidate(url: str, descriptors: list[str]) -> Candidate:
    width: int | None = None
    density: float | None = None
    height: int | None = None
    for text in descriptors:
        number, unit = text[:-1], text[-1]
        if unit == "w" and _INTEGER.match(number) and width is None and density is None and int(number) > 0:
            width = int(number)
        elif unit == "x" and _FLOAT.match(number) and width is density is height is None and float(number) >= 0:
            density = float(number)
        elif unit == "h" and _INTEGER.match(number) and height is None and density is None and int(number) > 0:
            height = int(number)
        else:
            return Candidate(url, fault=f"'{text}' is not a descriptor", descriptors=tuple(descriptors))
    if height is not None and width is None:
        return Candidate(url, fault=f"'{height}h' needs a width descriptor too", descriptors=tuple(descriptors))
    return Candidate(url, width, density, descriptors=tuple(descriptors))
