"""Files for people to look at: written over earlier ones of their kind, never over a file of the author's."""

from __future__ import annotations

import io
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.errors import OutputError
from sarvel.files.atomic import write_whole

if TYPE_CHECKING:
    from PIL.Image import Image

_MARKS = (b'<meta name="generator" content="sarvel">', b"Software\0sarvel")
"""Bytes near the start of a page and of a PNG file."""
_NEAR = 300  # bytes


def is_for_people(file: Path) -> bool:
    """Tells whether a file is a report or a proof."""
    try:
        with file.open("rb") as stream:
            begin = stream.read(_NEAR)
    except OSError:
        return False
    return any(mark in begin for mark in _MARKS)


def write_for_people(file: Path, content: bytes, top: Path | None = None) -> None:
    """Writes a report or a proof.

    Args:
        content: a page or a PNG file with its mark.
        top: the folder that it belongs below; None for the one that it is in.

    Raises:
        OutputError: it cannot be written, or another file is in its place.
    """
    if file.is_file() and not is_for_people(file):
        raise OutputError.at(
            file, "is there already, and is no report or proof of Sarvel", "name another with --output"
        )
    write_whole(file, content, top=top)


def png_file(image: Image) -> bytes:
    """A drawing as a PNG file."""
    from PIL.PngImagePlugin import PngInfo  # slow to load

    info = PngInfo()
    info.add_text("Software", "sarvel")
    file = io.BytesIO()
    image.save(file, "png", optimize=True, pnginfo=info)
    return file.getvalue()
