"""The `sizes` attribute: HTML's parsing, with dropped entries (HTML, section 4.8.4.3.11 "Parsing a sizes attribute")."""

from __future__ import annotations

import functools
from dataclasses import dataclass

import tinycss2
from tinycss2.ast import IdentToken, Node

from sarvel.core.css.device import Device
from sarvel.core.css.lengths import Length, LengthError, is_negative, length_of, parse_length
from sarvel.core.css.media import ALWAYS, NEVER, Media, parse_condition
from sarvel.core.css.tokens import parted, tokens_of

FULL_WIDTH = parse_length("100vw")
"""The length of an empty `sizes`."""


@dataclass(frozen=True)
class SizeEntry:
    """One entry of a `sizes` value.

    Attributes:
        media: when it counts; its css is "" where it has no condition.
        length: the width that it says; None for `auto`.
        fault: why a browser drops it; "" if it does not.
    """

    media: Media
    length: Length | None
    fault: str = ""


def parse_sizes(css: str) -> list[SizeEntry]:
    """All entries in order; an entry that a browser drops has a fault."""
    return list(_entries(css))


@functools.lru_cache(maxsize=1024)
def _entries(css: str) -> tuple[SizeEntry, ...]:
    parts = parted(tokens_of(css))
    return tuple(_entry([token for token in part if token.type != "whitespace"], part) for part in parts)


def sizes_on(entries: list[SizeEntry], device: Device) -> Length:
    """The length that counts on a device: the first whose condition holds.

    `auto` is passed over, as a browser does that has not laid out the image yet, or may not measure it.
    """
    for entry in entries:
        if entry.length is not None and not entry.fault and entry.media.matches(device):
            return entry.length
    return FULL_WIDTH


def _entry(tokens: list[Node], written: list[Node]) -> SizeEntry:
    never = Media("", NEVER)
    if not tokens:
        return SizeEntry(never, None, "the entry is empty")
    *condition, last = tokens
    css = tinycss2.serialize([token for token in written if token is not last]).strip()
    media = parse_condition(condition, css) if condition else Media("", ALWAYS)
    if isinstance(last, IdentToken) and last.lower_value == "auto":
        return SizeEntry(media or never, None)
    try:
        length = length_of([last])
    except LengthError as error:
        return SizeEntry(never, None, error.problem)
    if is_negative([last]):
        return SizeEntry(never, None, f"'{length.css}' is negative")
    if media is None:
        return SizeEntry(never, length, f"'{css}' is no media condition")
    return SizeEntry(media, length)
