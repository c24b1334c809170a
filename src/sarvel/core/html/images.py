"""What decides which file an image fetches: the img's attributes and those of its picture's sources."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

# HTML, section 13.1.2 "Elements": those that never have content.
VOID = frozenset(["area", "base", "br", "col", "embed", "hr", "img", "input", "link", "meta", "source", "track", "wbr"])


_FILE_NAME = re.compile(r"[^\s/]+\.(?:jpe?g|png|webp|avif|gif|tiff?|svg|jxl|heic|bmp)", re.IGNORECASE)


def is_file_name(text: str) -> bool:
    """Whether a text is but the name of an image file."""
    return bool(_FILE_NAME.fullmatch(text.strip()))


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
