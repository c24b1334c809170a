"""The images of a page with all that decides which file each fetches: the img's attributes and its picture's sources."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from types import MappingProxyType

from sarvel.core.html.tags import Tag, tags

# HTML, section 13.1.2 "Elements": those that never have content.
VOID = frozenset(["area", "base", "br", "col", "embed", "hr", "img", "input", "link", "meta", "source", "track", "wbr"])


_FILE_NAME = re.compile(r"[^\s/]+\.(?:jpe?g|png|webp|avif|gif|tiff?|svg|jxl|heic|bmp)", re.IGNORECASE)


def is_file_name(alt: str) -> bool:
    """Whether an alt is but the name of an image file."""
    return bool(_FILE_NAME.fullmatch(alt.strip()))


@dataclass(frozen=True)
class ImageElement:
    """One img of a page.

    Attributes:
        attributes: its own, by lower-case name, character references resolved.
        sources: those of the source elements of its picture that stand before it, in order; none if it is in no picture.
        start: where its tag begins in the page.
    """

    attributes: Mapping[str, str]
    sources: tuple[Mapping[str, str], ...]
    start: int


def images_in(page: str) -> Iterator[ImageElement]:
    """All images of a page, in order. Only children of a picture count as its sources and its img."""
    inside: list[str] = []  # open elements within the open picture, itself first
    sources: list[Mapping[str, str]] = []
    for tag in tags(page):
        if tag.name == "img" and not tag.closing:
            yield ImageElement(_attributes(tag), tuple(sources) if inside == ["picture"] else (), tag.start)
        elif tag.name == "source" and inside == ["picture"] and not tag.closing:
            sources.append(_attributes(tag))
        elif tag.name == "picture" and not tag.closing:
            inside, sources = ["picture"], []
        elif tag.closing and tag.name in inside:
            del inside[inside.index(tag.name) :]
        elif inside and not tag.closing and tag.name not in VOID:
            inside.append(tag.name)


def _attributes(tag: Tag) -> Mapping[str, str]:
    found: dict[str, str] = {}
    for attribute in tag.attributes:
        found.setdefault(attribute.name.lower(), attribute.value)
    return MappingProxyType(found)
