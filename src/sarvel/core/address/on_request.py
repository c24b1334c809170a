"""Sealed addresses of files that are made when first asked for.

    card/boats/boat.jpg/desktop-960-3f9c2a1b7d.avif~Zt0-HxUmJ4e0aS5rPq1xVg

Slot, master, crop, width in px, a digest of all that the file is made from, its format, and a seal of all that is before.
The digest lets caches keep a file for ever: of another master, or another plan, the address is another.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from sarvel.core.address.address import below, escaped
from sarvel.core.address.seal import LETTERS, Keys
from sarvel.core.edition.fingerprint import IN_NAMES, digest_of
from sarvel.core.model import ONLY_CROP

if TYPE_CHECKING:
    from sarvel.core.edition.compose import Crop, Picture
    from sarvel.core.edition.rendition import Rendition

_FORM = re.compile(
    r"(?P<slot>[^/]+)/(?P<master>.+)/(?P<crop>[^/]+)-(?P<width>[1-9]\d{0,5})"
    rf"-(?P<digest>[0-9a-f]{{{IN_NAMES}}})(?:\.(?P<ending>\w{{1,5}}))?",
    re.ASCII | re.DOTALL,
)
_SEALED = re.compile(rf"(?P<path>.+)~(?P<seal>[\w-]{{{LETTERS}}})", re.ASCII | re.DOTALL)
CACHE_NAME = "sarvel.cache"
"""The folder next to the plan that files are kept in once they were asked for, where no one names another."""

FOR_NOW = "public, max-age=60"
"""Cache-Control of a file whose encoder's number is still to be searched for."""

LONGEST = 4000
"""Letters of an address; a longer one is no one's: file systems allow paths of 4096 bytes."""


@dataclass(frozen=True)
class Asked:
    """The words of an address, before their meaning is looked up.

    Attributes:
        crop: the crop's name; ONLY_CROP for a slot's only one.
        width: px across.
        digest: of all that the file is made from; of all its formats if the address names none.
        ending: of the format's file names; "" if the server chooses.
    """

    slot: str
    master: str
    crop: str
    width: int
    digest: str
    ending: str

    @property
    def path(self) -> str:
        """The words as a path, not escaped, and without a seal."""
        crop = self.crop.replace("%", "%25").replace("/", "%2F")
        ending = f".{self.ending}" if self.ending else ""
        return f"{self.slot}/{self.master}/{crop}-{self.width}-{self.digest}{ending}"


@dataclass(frozen=True)
class OnRequest:
    """Files that are made when first asked for; an Address.

    Attributes:
        prefix: how pages reach the server: a URL prefix, escaped, without a slash at its end.
        by_accept: whether the address names no format.
    """

    prefix: str
    keys: Keys
    by_accept: bool = False

    def of(self, picture: Picture, crop: Crop, rendition: Rendition) -> str:
        """The URL of a file; as `Address.of`."""
        path = asked_of(picture, crop, rendition, by_accept=self.by_accept).path
        return below(self.prefix, f"{escaped(path, keeps='/')}~{self.keys.seal(path)}")


def asked_of(picture: Picture, crop: Crop, rendition: Rendition, *, by_accept: bool) -> Asked:
    """The words of the address of a file."""
    name = crop.rule.name or ONLY_CROP
    pair = (picture.slot.name, picture.master.key)
    if by_accept:
        digest = digest_of(*(one.fingerprint for one in in_all_formats(crop.renditions, rendition.width)))
        return Asked(*pair, name, rendition.width, digest[:IN_NAMES], "")
    return Asked(*pair, name, rendition.width, rendition.digest, rendition.name.rpartition(".")[2])


def in_all_formats(renditions: Mapping[str, tuple[Rendition, ...]], width: int) -> list[Rendition]:
    """The files of one width of a crop, best format first."""
    return [one for ladder in renditions.values() for one in ladder if one.width == width]


def unsealed(path: str, keys: Keys) -> Asked | None:
    """The words of an address that one of the keys sealed; None for all others.

    Args:
        path: below the prefix, escapes resolved.
    """
    found = _SEALED.fullmatch(path) if len(path) <= LONGEST else None
    if found is None or not keys.fits(found["path"], found["seal"]):
        return None
    return _read(found["path"])


def has_form(path: str) -> Asked | None:
    """The words of an address that has the form of a sealed one, anyone who sealed it; None for others."""
    found = _SEALED.fullmatch(path) if len(path) <= LONGEST else None
    return _read(found["path"]) if found else None


def _read(path: str) -> Asked | None:
    found = _FORM.fullmatch(path)
    if found is None:
        return None
    crop = found["crop"].replace("%2F", "/").replace("%25", "%")
    return Asked(found["slot"], found["master"], crop, int(found["width"]), found["digest"], found["ending"] or "")
