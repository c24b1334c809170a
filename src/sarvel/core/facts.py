"""Facts that compose needs: about each master's file, and about each format that can be written."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sarvel.core.crop.place import Box

READ_FORMATS = ("JPEG", "MPO", "PNG", "WEBP", "AVIF", "JXL", "TIFF", "GIF", "BMP", "PPM")
"""Formats that images are read in, as Pillow calls them; a file of any other is none, whatever its name says."""


@dataclass(frozen=True)
class FoundSubject:
    """A subject that was found in the pixels of a master: a guess.

    Attributes:
        box: in fractions of width and height.
        sure: 0 (a guess like any other) to 1.
    """

    box: Box
    sure: float


@dataclass(frozen=True)
class MasterFacts:
    """Facts about a master's file.

    Attributes:
        key: its path below the masters folder, with forward slashes.
        width: px across, once turned upright.
        height: px down, once turned upright.
        alpha: whether it can be transparent.
        digest: of the file's bytes, in hexadecimal.
        size: bytes of the file.
        drawn: whether its pixels are those of flat graphics.
        remarks: what is wrong with it that does not stop it, a sentence each.
        found: the subject found in its pixels; None if nobody looked.
    """

    key: str
    width: int
    height: int
    alpha: bool
    digest: str
    size: int
    drawn: bool = False
    remarks: tuple[str, ...] = ()
    found: FoundSubject | None = None


@dataclass(frozen=True)
class FormatFacts:
    """Facts about a format.

    Attributes:
        name: as plans call it.
        media_type: as markup calls it.
        ending: of its files, without the dot.
        alpha: whether it can be transparent.
        lossy: whether it can leave out what the eye hardly sees.
        lossless: whether it can keep every pixel as it is.
        interlaces: whether it can be written to show roughly before it is whole, on request.
        codecs: library and version that write it, and their settings, by effort; others may write other bytes.
    """

    name: str
    media_type: str
    ending: str
    alpha: bool
    lossy: bool
    lossless: bool
    interlaces: bool
    codecs: Mapping[str, str]
