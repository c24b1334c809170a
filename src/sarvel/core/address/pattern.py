"""Addresses of a service elsewhere that makes files from a master, a crop and a width: a pattern over named fields."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from sarvel.core.address.address import escaped
from sarvel.core.address.on_request import in_all_formats
from sarvel.core.address.seal import Keys
from sarvel.core.crop.place import Box
from sarvel.core.edition.fingerprint import IN_NAMES, digest_of
from sarvel.core.html.template_code import holds_code
from sarvel.core.model import ONLY_CROP

if TYPE_CHECKING:
    from sarvel.core.edition.compose import Crop, Picture
    from sarvel.core.edition.rendition import Rendition

_FIELD = re.compile(r"\{([^{}]*)\}")
_ENDS = (("right", "bottom"), ("across", "down"))
_PLACES = 6  # decimals of a fraction: of a side of 16383 px, a sixtieth of one


@dataclass(frozen=True)
class _Said:
    """All that fields may describe."""

    picture: Picture
    crop: Crop
    rendition: Rendition
    quality: int
    by_accept: bool

    @property
    def whole(self) -> Box:
        """The crop in whole px of the upright master, as near as can be."""
        box = self.crop.box
        left, top = round(box.left), round(box.top)
        right, bottom = max(left + 1, round(box.right)), max(top + 1, round(box.bottom))
        return Box(left, top, min(right, self.crop.source.width), min(bottom, self.crop.source.height))

    @property
    def share(self) -> Box:
        """The crop in fractions of the upright master."""
        box, width, height = self.crop.box, self.crop.source.width, self.crop.source.height
        return Box(box.left / width, box.top / height, box.right / width, box.bottom / height)

    @property
    def digest(self) -> str:
        if not self.by_accept:
            return self.rendition.digest
        files = in_all_formats(self.crop.renditions, self.rendition.width)
        return digest_of(*(one.fingerprint for one in files))[:IN_NAMES]


def _fraction(value: float) -> str:
    return f"{value:.{_PLACES}f}".rstrip("0").rstrip(".") or "0"


_TEXTS: Mapping[str, Callable[[_Said], str]] = {
    "master": lambda said: said.crop.source.key,
    "slot": lambda said: said.picture.slot.name,
    "crop": lambda said: said.crop.rule.name or ONLY_CROP,
}
# None of what these say needs escaping.
_PLAIN: Mapping[str, Callable[[_Said], str]] = {
    "left": lambda said: f"{said.whole.left:.0f}",
    "top": lambda said: f"{said.whole.top:.0f}",
    "right": lambda said: f"{said.whole.right:.0f}",
    "bottom": lambda said: f"{said.whole.bottom:.0f}",
    "across": lambda said: f"{said.whole.width:.0f}",
    "down": lambda said: f"{said.whole.height:.0f}",
    "left_share": lambda said: _fraction(said.share.left),
    "top_share": lambda said: _fraction(said.share.top),
    "right_share": lambda said: _fraction(said.share.right),
    "bottom_share": lambda said: _fraction(said.share.bottom),
    "across_share": lambda said: _fraction(said.share.width),
    "down_share": lambda said: _fraction(said.share.height),
    "width": lambda said: str(said.rendition.width),
    "height": lambda said: str(said.rendition.height),
    "format": lambda said: said.rendition.format,
    "ext": lambda said: said.rendition.name.rpartition(".")[2],
    "quality": lambda said: str(said.quality),
    "digest": lambda said: said.digest,
}
SEAL = "seal"
FIELDS = (*_TEXTS, *_PLAIN, SEAL)
"""The fields that a pattern may hold, between braces."""

_NEEDED = ("master", "width")
# Any of these tells crops apart.
_CROPS = (
    *({f"left{by}", f"top{by}", *(f"{one}{by}" for one in ends)} for by in ("", "_share") for ends in _ENDS),
    {"slot", "crop"},
    {"digest"},
)
_OF_FORMAT = frozenset({"format", "ext"})


class PatternError(ValueError):
    """A pattern cannot be followed. Its text says why, and what to do."""


@dataclass(frozen=True)
class OfService:
    """Files of a service elsewhere; an Address.

    Attributes:
        pattern: a URL with fields; other text is written literally.
        keys: for {seal}; None if the pattern has none.
        typical: the encoder's number of a format at a likeness, for where the plan says none.
    """

    pattern: str
    keys: Keys | None
    typical: Callable[[str, float], int]

    @property
    def by_accept(self) -> bool:
        """Whether the pattern names no format."""
        return names_no_format(self.pattern)

    def of(self, picture: Picture, crop: Crop, rendition: Rendition) -> str:
        """The URL of a file; as `Address.of`. A seal is that of the path and query, in which it is left out itself."""
        encoding = rendition.encoding
        likeness = encoding.search.likeness if encoding.search else picture.slot.finish.likeness
        quality = encoding.quality
        if quality is None:
            quality = 100 if encoding.lossless else self.typical(rendition.format, likeness)
        said = _Said(picture, crop, rendition, quality, self.by_accept)
        query = self.pattern.find("?")

        def filled(found: re.Match[str]) -> str:
            name = found[1]
            if name in _PLAIN:
                return _PLAIN[name](said)
            in_query = 0 <= query < found.start()
            return found[0] if name == SEAL else escaped(_TEXTS[name](said), keeps="" if in_query else "/")

        url = _FIELD.sub(filled, self.pattern)
        if self.keys is None:
            return url
        begun = path_and_query(url).replace(f"{{{SEAL}}}", "")
        return url.replace(f"{{{SEAL}}}", self.keys.seal(begun))


def path_and_query(url: str) -> str:
    """What a server gets to read of a URL: from the slash behind the host on."""
    scheme, mark, rest = url.partition("//")
    if mark and (not scheme or scheme.endswith(":")):
        return rest[len(rest.partition("/")[0]) :]
    return url


def origin_of(url: str) -> str:
    """Scheme and host of a URL, as written; "" if it has none."""
    return url[: len(url) - len(path_and_query(url))] if url.startswith(("http://", "https://", "//")) else ""


def is_pattern(address: str) -> bool:
    """Tells whether an address holds a field, or something like a field; template code does not count."""
    return not holds_code(address) and ("{" in address or "}" in address)


def names_no_format(pattern: str) -> bool:
    """Tells whether the addresses of a pattern are the same for all formats."""
    return not _OF_FORMAT & set(_FIELD.findall(pattern))


def wants_seal(pattern: str) -> bool:
    """Tells whether a pattern asks for a seal."""
    return SEAL in _FIELD.findall(pattern)


def begin_of(pattern: str) -> str:
    """What all addresses of a pattern begin with."""
    return pattern.partition("{")[0]


def check_pattern(pattern: str) -> None:
    """Declines a pattern that cannot be followed.

    Raises:
        PatternError: it holds an unknown field or a lone brace, or lacks a field without which files are the same.
    """
    found = _FIELD.findall(pattern)
    for name in found:
        if name not in FIELDS:
            raise PatternError(f"no field {{{name}}}; fields are {', '.join(f'{{{one}}}' for one in FIELDS)}")
    if is_pattern(_FIELD.sub("", pattern)):
        raise PatternError("a single brace; write fields such as {master}, and %7B or %7D for a brace itself")
    if pattern.startswith(",") or pattern.endswith(","):
        raise PatternError("it ends in a comma, which srcset would read as its own; write %2C")
    for name in _NEEDED:
        if name not in found:
            raise PatternError(f"lacks {{{name}}}: files that differ in it would have one address; put it in")
    if not any(told <= set(found) for told in _CROPS):
        raise PatternError(
            "does not tell one crop of a master from another; put {left}, {top}, {across} and {down} in, or {digest}"
        )
    if found.count(SEAL) > 1:
        raise PatternError("holds {seal} twice; once is enough")
