"""Facts that compose needs: about each master's file, and about each format that can be written."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from sarvel.core.crop.place import Box

READ_FORMATS = ("JPEG", "MPO", "PNG", "WEBP", "AVIF", "JXL", "TIFF", "GIF", "BMP", "PPM")
"""Formats that images are read in, as Pillow calls them; a file of any other is rejected, regardless of its name."""


LEAST_SURE = 0.5
"""How sure a guess is at least that a crop follows; below, nothing in particular was found."""

SURE_ENOUGH = 0.8
"""How sure a guess is at least that needs no look."""

_MOST = 0.85  # of the picture: a guess that covers more says nothing
_TOP = 0.3  # of a found subject's height: where heads, blossoms and gables are


@dataclass(frozen=True)
class FoundSubject:
    """A subject that was found in the pixels of a master: a guess.

    Attributes:
        box: in fractions of width and height.
        sure: confidence that it is right, 0 to 1: crops by it keep at least 95 % of the most that they could keep.
        others: alternatives, elsewhere in the picture or around the box; the most likely first.
    """

    box: Box
    sure: float
    others: tuple[Box, ...] = ()

    @property
    def is_part(self) -> bool:
        """Whether it is less than most of the picture."""
        return self.box.width * self.box.height <= _MOST

    @property
    def subjects(self) -> tuple[Box, ...]:
        """The subject, and its top, which matters most where it is too tall; nothing if nothing in particular was found."""
        box = self.box
        if self.sure < LEAST_SURE or not self.is_part:
            return ()
        return box, Box(box.left, box.top, box.right, box.top + _TOP * box.height)


@dataclass(frozen=True)
class NamedSubject:
    """A subject that something other than the plan names.

    Attributes:
        boxes: the parts to keep in view, in fractions; the first matters most, and is placed. Empty where nothing matters most.
        by: the master's own metadata, or the file of subjects.
        sure: how sure that is, 0 to 1; None if it does not say.
    """

    boxes: tuple[Box, ...]
    by: Literal["file", "import"]
    sure: float | None = None


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
        remarks: faults that do not stop it, a sentence each.
        note: what of its metadata is not used, and why; "" for nothing.
        named: the subject that its metadata names, or the file of subjects; None if neither does.
        found: the subject found in its pixels; None if no one looked.
    """

    key: str
    width: int
    height: int
    alpha: bool
    digest: str
    size: int
    drawn: bool = False
    remarks: tuple[str, ...] = ()
    note: str = ""
    named: NamedSubject | None = None
    found: FoundSubject | None = None


@dataclass(frozen=True)
class FormatFacts:
    """Facts about a format.

    Attributes:
        ending: of its files, without the dot.
        alpha: whether it can be transparent.
        lossy: whether it can leave out what the eye hardly sees.
        lossless: whether it can keep every pixel.
        interlaces: whether it can be written to show roughly before it is whole, on request.
        longest: px of a side that its files can have at most.
        codecs: library and version that write it, and their settings, by effort; others may write other bytes.
    """

    name: str
    media_type: str
    ending: str
    alpha: bool
    lossy: bool
    lossless: bool
    interlaces: bool
    longest: int
    codecs: Mapping[str, str]
