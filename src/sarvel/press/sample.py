"""Headers of any image files, and their pictures encoded small: what a survey goes by."""

from __future__ import annotations

import io
import struct
import warnings
from dataclasses import dataclass
from pathlib import Path

from PIL import Image, ImageOps

from sarvel.press.masters import formats_read

_WIDTHS = (256, 512)  # px: small enough to take a twentieth of a second, large enough to tell what full sizes weigh
_QUALITY = 60  # of AVIF: near what the finish `standard` comes to on photographs, see docs/quality.md


@dataclass(frozen=True)
class Header:
    """What the header of an image file says.

    Attributes:
        width: px as people see it; 0 if it cannot be read, or is drawn in vectors.
        height: px, as well.
        format: as Pillow names it, or SVG; "" if it cannot be read.
        alpha: whether it may be transparent.
        profile: the name of its color profile; "" for none.
        frames: more than one if it moves.
    """

    width: int = 0
    height: int = 0
    format: str = ""
    alpha: bool = False
    profile: str = ""
    frames: int = 1


def read_header(file: Path) -> Header:
    """Reads a header; of a file that is no image, one that says nothing."""
    if file.suffix.lower() == ".svg":
        return Header(format="SVG")
    try:
        with warnings.catch_warnings(), Image.open(file, formats=formats_read()) as image:
            warnings.simplefilter("ignore")
            width, height = image.size
            if image.getexif().get(0x0112, 1) >= 5:  # Exif 3.0, section 4.6.5: orientation, with sides exchanged
                width, height = height, width
            profile = _profile(image.info.get("icc_profile") or b"")
            return Header(
                width, height, image.format or "", image.has_transparency_data, profile, getattr(image, "n_frames", 1)
            )
    except Exception:  # noqa: BLE001 - decoders raise whatever they like about damaged files
        return Header()


def _profile(content: bytes) -> str:
    """The description of a color profile: its tag `desc`, in the form of version 2 or 4 (ICC.1:2022, sections 7.3, 10.15)."""
    if not content:
        return ""
    try:
        (count,) = struct.unpack_from(">I", content, 128)
        table = [struct.unpack_from(">4sII", content, 132 + 12 * i) for i in range(min(count, 100))]
        start = next(offset for name, offset, _ in table if name == b"desc")
        if content[start : start + 4] == b"mluc":
            length, offset = struct.unpack_from(">II", content, start + 20)
            return content[start + offset : start + offset + length].decode("utf-16-be").strip("\0 ")
        (length,) = struct.unpack_from(">I", content, start + 8)
        return content[start + 12 : start + 12 + length].decode("ascii").strip("\0 ")
    except (struct.error, StopIteration, UnicodeDecodeError):
        return "unnamed"


def encoded_small(file: Path) -> list[tuple[int, int]]:
    """Widths in px and bytes of a picture encoded small, the wider last; none if it cannot be read, or moves."""
    try:
        with warnings.catch_warnings(), Image.open(file, formats=formats_read()) as image:
            warnings.simplefilter("ignore")
            if getattr(image, "n_frames", 1) > 1:
                return []
            image.draft(None, (_WIDTHS[-1], _WIDTHS[-1]))
            upright = ImageOps.exif_transpose(image)
            picture = upright.convert("RGBA" if upright.has_transparency_data else "RGB")
    except Exception:  # noqa: BLE001 - as above
        return []
    widths = sorted({min(width, picture.width) for width in _WIDTHS})
    found = []
    for width in widths:
        small = picture.resize((width, max(1, round(picture.height * width / picture.width))), reducing_gap=2)
        stream = io.BytesIO()
        small.save(stream, "avif", quality=_QUALITY, speed=8, max_threads=1)
        found.append((width, stream.tell()))
    return found
