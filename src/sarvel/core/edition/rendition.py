"""Renditions: the files of a crop, how each is encoded, and its name, which tells everything that it is made from."""

from __future__ import annotations

import functools
import re
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from sarvel.core.crop.place import Box
from sarvel.core.edition.encoding import Encoding, QualitySearch, Size
from sarvel.core.edition.fingerprint import (
    IN_NAMES,
    describe_crop,
    describe_encoding,
    describe_search,
    describe_size,
    digest_of,
    digests_of,
)
from sarvel.core.facts import FormatFacts
from sarvel.core.model import Effort, Finish, Gamut, Treatment

CLEAN = 97.0
"""The likeness at least of flat graphics in a format that cannot keep every pixel: no ring is seen around its lettering."""


@dataclass(frozen=True)
class Origin:
    """The pixels that a file is made from.

    Attributes:
        digest: of the master's bytes.
        box: px of the upright master, turned and mirrored as the treatment says.
        told: all of it as text, for fingerprints.
    """

    digest: str
    box: Box
    treatment: Treatment
    gamut: Gamut
    told: str = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        """Works out `told` once for all files of the crop."""
        told = describe_crop(self.digest, self.box, self.treatment, self.gamut)
        object.__setattr__(self, "told", told)


@dataclass(frozen=True)
class Rendition:
    """One file: a crop, at a rung, in a format.

    Attributes:
        name: file name; two renditions that differ in any byte differ in name.
        width: px across.
        height: px down.
        fingerprint: digest of everything that it is made from; files of one fingerprint are the same.
    """

    name: str
    format: str
    media_type: str
    width: int
    height: int
    encoding: Encoding
    fingerprint: str = ""

    @property
    def digest(self) -> str:
        """The part of the fingerprint that its name holds."""
        return self.fingerprint[:IN_NAMES]

    @property
    def size(self) -> Size:
        """Width and height, px."""
        return self.width, self.height


@dataclass(frozen=True)
class Placeholder:
    """A placeholder for a crop that has not loaded.

    Attributes:
        kind: "tint", "soft", "outline", or a color "#rrggbb".
        key: tells everything that it depends on; "" for a color, which needs no making.
        size: the rung that it is made from.
    """

    kind: str
    key: str
    size: Size


_LONGEST = 200  # bytes of a file name: systems allow 255, and what serves or copies a file may add an ending of its own


@dataclass(frozen=True)
class Naming:
    """The naming of a crop's files.

    Attributes:
        pattern: holds {digest} and ends with .{ext}; may hold {stem}, {slot}, {crop}, {width}, {height}, {density}.
        crop: the crop; "" if it is the only one.
        constant: the one width that the slot is shown at, CSS px; None where that differs. {density} follows it.
    """

    pattern: str
    master: str
    slot: str
    crop: str
    constant: float | None

    def begun(self) -> str:
        """The pattern with the fields filled in that all files of the crop share; an empty field takes its hyphen along."""
        said = {"{stem}": plain_name(self.master), "{slot}": plain_name(self.slot), "{crop}": plain_name(self.crop)}
        name = self.pattern
        for field_, text in said.items():
            name = name.replace(field_, text) if text else name.replace(f"{field_}-", "").replace(field_, "")
        return name

    def finished(self, begun: str, size: Size, digest: str, ending: str) -> str:
        """The name of one file."""
        name = begun.replace("{width}", str(size[0])).replace("{digest}", digest).replace("{ext}", ending)
        if "{" in name:
            density = f"{size[0] / self.constant:.4g}" if self.constant else str(size[0])
            name = name.replace("{height}", str(size[1])).replace("{density}", density)
        tail = f".{digest}.{ending}"
        return name if len(name.encode()) <= _LONGEST else _cut_short(name, _LONGEST - len(tail)) + tail


def _cut_short(name: str, most: int) -> str:
    """The beginning of a name, in at most so many bytes."""
    return name.encode()[:most].decode("utf-8", "ignore")


def rendered_as(
    origin: Origin,
    sizes: Sequence[Size],
    format_: FormatFacts,
    finish: Finish,
    naming: Naming,
    *,
    effort: Effort,
    drawn: bool,
) -> tuple[Rendition, ...]:
    """The files of one crop in one format, one for each size.

    Args:
        sizes: narrowest first, at least one.
        naming: how files are called.
        drawn: whether the picture is flat graphics.
    """
    codec = format_.codecs[effort]
    encoding = replace(_encoding(origin.told, sizes, format_, codec, finish, drawn=drawn), effort=effort)
    told, begin = origin.told + describe_encoding(format_.name, codec, encoding), naming.begun()
    files = []
    for size, fingerprint in zip(sizes, digests_of(told, sizes), strict=True):
        name = naming.finished(begin, size, fingerprint[:IN_NAMES], format_.ending)
        files.append(Rendition(name, format_.name, format_.media_type, *size, encoding, fingerprint))
    return tuple(files)


def placeholder_of(origin: Origin, size: Size, kind: str) -> Placeholder | None:
    """The placeholder of an opaque crop whose smallest rung has this size; None for "none"."""
    if kind == "none":
        return None
    key = "" if kind.startswith("#") else digest_of(origin.told, f"placeholder {kind}\n", describe_size(size))
    return Placeholder(kind, key, size)


def _encoding(
    told: str, sizes: Sequence[Size], format_: FormatFacts, codec: str, finish: Finish, *, drawn: bool
) -> Encoding:
    interlace = finish.interlace and format_.interlaces
    if format_.lossless and (drawn or not format_.lossy) and format_.name not in finish.quality:
        return Encoding(lossless=True, drawn=drawn, interlace=interlace, metadata=finish.metadata)
    quality = finish.quality.get(format_.name) if format_.lossy else None
    search = None
    if quality is None:
        likeness = max(finish.likeness, CLEAN) if drawn else finish.likeness
        tried = tuple(sizes[: (len(sizes) + 1) // 2])
        how = f"format {format_.name}\ncodec {codec}\nsearch {describe_search(likeness, tried, drawn=drawn)}\n"
        search = QualitySearch(digest_of(told, how), likeness, tried)
    return Encoding(quality=quality, search=search, drawn=drawn, interlace=interlace, metadata=finish.metadata)


@functools.cache
def plain_name(name: str) -> str:
    """A name in letters, digits and hyphens that no URL, srcset or shell needs to escape; may be empty."""
    stem = name.rsplit("/", 1)[-1].rsplit(".", 1)[0]
    ascii_ = unicodedata.normalize("NFKD", stem).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", ascii_).strip("-")
