"""Headers of image files: sizes, formats, profiles. No pixel is decoded."""

from __future__ import annotations

import contextlib
import io
import re
import warnings
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from PIL import Image, ImageFile

from sarvel.encode.masters import formats_read
from sarvel.encode.orientation import moved_size, upright_moves

_PNG_EXIF = re.compile(rb"eXIf|Raw profile type exif")  # Pillow decodes the whole picture to look behind it


@dataclass(frozen=True)
class Header:
    """The header of an image file.

    Attributes:
        width: px as people see it; 0 if it cannot be read, or is drawn in vectors.
        height: px too.
        format: as Pillow names it, or SVG; "" if it cannot be read.
        media_type: of the format; "" too.
        alpha: whether it may be transparent.
        profile: the name of its color profile; "" for none.
        frames: more than one if it moves; 1 where no one asked.
    """

    width: int = 0
    height: int = 0
    format: str = ""
    media_type: str = ""
    alpha: bool = False
    profile: str = ""
    frames: int = 1


def read_header(file: Path, *, whole: bool = True) -> Header:
    """Reads a header; of a file that is no image, one that says nothing.

    Args:
        whole: whether profile and frames are wanted, which takes longer.
    """
    if file.suffix.lower() == ".svg":
        return Header(format="SVG", media_type="image/svg+xml")
    try:
        with opened_quietly(file) as image:
            is_upright = image.format == "PNG" and not _PNG_EXIF.search(file.read_bytes())
            width, height = moved_size(image.size, () if is_upright else upright_moves(image))
            name, type_ = image.format or "", Image.MIME.get(image.format or "", "")
            if not whole:
                return Header(width, height, name, type_)
            profile = _profile_name(image.info.get("icc_profile") or b"")
            frames = int(getattr(image, "n_frames", 1))
            return Header(width, height, name, type_, image.has_transparency_data, profile, frames)
    except Exception:  # noqa: BLE001 - decoders raise anything for damaged files
        return Header()


@contextlib.contextmanager
def opened_quietly(file: Path) -> Iterator[ImageFile.ImageFile]:
    """An image file of any format that is read, without Pillow's own remarks on odd metadata and size."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        with Image.open(file, formats=formats_read()) as image:
            yield image


def _profile_name(content: bytes) -> str:
    """The description of a color profile; "unnamed" for one that has none or is damaged."""
    if not content:
        return ""
    from PIL import ImageCms

    try:
        return ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(content))).strip() or "unnamed"
    except (ImageCms.PyCMSError, OSError, TypeError, ValueError):
        return "unnamed"
