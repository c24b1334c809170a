"""Pictures encoded small: what a survey estimates weights from."""

from __future__ import annotations

import io
from pathlib import Path

from PIL import ImageOps

from sarvel.encode.image_headers import opened_quietly

_WIDTHS = (256, 512)  # px: small enough to take a twentieth of a second, large enough to tell what full sizes weigh
_QUALITY = 60  # of AVIF: near what the finish `standard` amounts to on photographs


def encoded_small(file: Path) -> list[tuple[int, int]]:
    """Widths in px and bytes of a picture encoded small, the wider last; none if it cannot be read, or moves."""
    try:
        with opened_quietly(file) as image:
            if getattr(image, "n_frames", 1) > 1:
                return []
            image.draft(None, (_WIDTHS[-1], _WIDTHS[-1]))
            upright = ImageOps.exif_transpose(image)
            picture = upright.convert("RGBA" if upright.has_transparency_data else "RGB")
    except Exception:  # noqa: BLE001 - decoders raise anything for damaged files
        return []
    found = []
    for width in sorted({min(width, picture.width) for width in _WIDTHS}):
        small = picture.resize((width, max(1, round(picture.height * width / picture.width))), reducing_gap=2)
        stream = io.BytesIO()
        small.save(stream, "avif", quality=_QUALITY, speed=8, max_threads=1)
        found.append((width, stream.tell()))
    return found
