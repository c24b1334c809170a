"""Small pictures of renditions, to be held in a page."""

from __future__ import annotations

import io
from pathlib import Path

from PIL import Image

_HEAVY = 24_000  # bytes; a lighter file is held as it is
_LONGEST = 360  # px: twice what a page shows
_QUALITY = 70


def small(file: Path, format_: str) -> tuple[bytes, str]:
    """A picture of a file as a page may hold it, and its format: the file itself if it is light.

    Raises:
        OSError: it cannot be read.
    """
    content = file.read_bytes()
    if len(content) <= _HEAVY:
        return content, format_
    with Image.open(io.BytesIO(content)) as image:
        image.thumbnail((_LONGEST, _LONGEST))
        reduced = image.convert("RGBA" if image.has_transparency_data else "RGB")
    made = io.BytesIO()
    reduced.save(made, "webp", quality=_QUALITY, method=4)
    return (made.getvalue(), "webp") if made.tell() < len(content) else (content, format_)
