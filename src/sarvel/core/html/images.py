"""Image elements: the attributes that decide which file is fetched, and alts that are file names."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

_CAMERA = re.compile(r"(?:IMG|DSC|DSCN|DSCF|PXL)[-_]?\d{3,}(?:[-_]\d+)*", re.IGNORECASE)
_FILE_NAME = re.compile(r"[^\s/]+\.(?:jpe?g|png|webp|avif|gif|tiff?|svg|jxl|heic|bmp)", re.IGNORECASE)


def is_file_name(text: str) -> bool:
    """Tells whether a text is only the name of an image file."""
    return bool(_FILE_NAME.fullmatch(text.strip()))


def names_a_file(alt: str, src: str) -> bool:
    """Tells whether an alt is but a name of a file: with its ending, as that of its own file without, or as cameras give them.

    Args:
        src: the address of its own file.
    """
    words = alt.strip()
    stem = src.split("?", 1)[0].rsplit("/", 1)[-1].rsplit(".", 1)[0]
    own = words == stem and re.search(r"[-_\d]", stem) and not words.isdecimal()  # a number is what a callout says
    return bool(is_file_name(words) or own or _CAMERA.fullmatch(words))


@dataclass(frozen=True)
class ImageElement:
    """One img of a page.

    Attributes:
        attributes: its own, by lower-case name, character references resolved.
        sources: those of the source elements of its picture that are before it, in order; none if it is in no picture.
        start: where its tag begins in the page.
    """

    attributes: Mapping[str, str]
    sources: tuple[Mapping[str, str], ...]
    start: int
