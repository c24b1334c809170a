"""Pieces of attribute values, found in the text of their page, and edits that write other ones in their place."""

from __future__ import annotations

import html
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from sarvel.core.html.document import span_of
from sarvel.core.html.tags import Attribute, Tag

_REFERENCE = re.compile(r"&#?\w+;?")  # HTML, section 13.5, as html.unescape reads them
_QUOTES = "\"'"


@dataclass(frozen=True, order=True)
class Edit:
    """Another text in the place of a span of a page.

    Attributes:
        start: offset in the page at which the span starts.
    """

    start: int
    end: int
    text: str


def edited(text: str, edits: Iterable[Edit]) -> str:
    """The page with all edits made; they must not overlap."""
    parts, at = [], 0
    for edit in sorted(set(edits)):
        parts += [text[at : edit.start], edit.text]
        at = edit.end
    return "".join([*parts, text[at:]])


def overlap(one: Edit, other: Edit) -> bool:
    """Tells whether two edits are of the same letters, or insert at the same place."""
    return (one.start < other.end and other.start < one.end) or one.start == other.start or one.end == other.end


def piece_span(text: str, tag: Tag, name: str, start: int, end: int) -> tuple[int, int]:
    """Start and end offset in a page of a piece of an attribute's value; of the whole attribute where it cannot be found.

    Args:
        name: of the attribute, in lower case.
        start: offset in the value at which the piece starts.
    """
    places = _places(text, tag.get(name))
    return (places[start], places[end]) if places and start < end < len(places) else span_of(tag, name)


def piece_edit(text: str, tag: Tag, name: str, start: int, end: int, new: str) -> tuple[Edit, ...]:
    """The edit that writes a text in the place of a piece of an attribute's value; none where the piece cannot be found.

    Args:
        name: of the attribute, in lower case.
        start: offset in the value at which the piece starts.
        new: the text, character references not written yet.
    """
    attribute = tag.get(name)
    places = _places(text, attribute)
    if attribute is None or not places:
        return ()
    if text[attribute.end - 1] in _QUOTES and text[places[-1]] == text[attribute.end - 1]:
        return (Edit(places[start], places[end], html.escape(new, quote=False).replace('"', "&quot;")),)
    whole = attribute.value[:start] + new + attribute.value[end:]
    return (Edit(attribute.start, attribute.end, written(attribute.name, whole)),)


def written(name: str, value: str) -> str:
    """An attribute as written in a page."""
    return f'{name}="{html.escape(value, quote=False).replace(chr(34), "&quot;")}"'


def added(tag: Tag, attribute: str) -> Edit:
    """The edit that adds an attribute, as written, behind the last one of a tag."""
    at = tag.attributes[-1].end if tag.attributes else tag.start + 1 + len(tag.name)
    return Edit(at, at, f" {attribute}")


def taken_away(text: str, attribute: Attribute) -> Edit:
    """The edit that takes an attribute away, and the white space before it."""
    start = len(text[: attribute.start].rstrip())
    return Edit(start, attribute.end, "")


def _places(text: str, attribute: Attribute | None) -> Sequence[int]:
    """The offset in the page of each letter of an attribute's value, and the one behind; empty if unknown."""
    if attribute is None or not attribute.raw:
        return ()
    raw = attribute.raw
    start = attribute.end - len(raw)
    if text[start : attribute.end] != raw:
        start -= 1
        if text[start : attribute.end - 1] != raw:
            return ()
    if "&" not in raw:
        return range(start, start + len(raw) + 1)
    places, at = [], 0
    while at < len(raw):
        found = _REFERENCE.match(raw, at)
        meant = html.unescape(found.group()) if found else raw[at]
        end = found.end() if found and meant != found.group() else at + 1
        places += [start + at] * (len(meant) if end > at + 1 else 1)
        at = end
    return (*places, start + len(raw)) if len(places) == len(attribute.value) else ()
