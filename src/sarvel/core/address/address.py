"""The address of a file: how pages reach it. Three kinds have one form; this is the first, a file in a folder."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import TYPE_CHECKING, Protocol

if TYPE_CHECKING:
    from sarvel.core.edition.compose import Crop, Picture
    from sarvel.core.edition.rendition import Rendition

# RFC 3986, section 3.3: a path's letters, less the comma, which srcset would take for its own.
_UNSAFE = re.compile(r"[^\w.~@+!$&'()*;=:-]|[^\x00-\x7f]")


class Address(Protocol):
    """The way in which a page reaches the files of pictures; two that are equal give the same addresses."""

    @property
    def by_accept(self) -> bool:
        """Whether one address serves all formats of a file, and the server chooses by Accept."""

    def of(self, picture: Picture, crop: Crop, rendition: Rendition) -> str:
        """The URL of a file, escaped so that srcset, HTML and CSS can hold it."""

    def __hash__(self) -> int:
        """Markup is kept by address."""


@dataclass(frozen=True)
class InFolder:
    """Files that are in a folder.

    Attributes:
        prefix: how the page reaches the folder: a URL prefix that needs no escaping, without a slash at its end.
    """

    prefix: str

    @property
    def by_accept(self) -> bool:
        """No: a file has one format."""
        return False

    def of(self, _picture: Picture, _crop: Crop, rendition: Rendition) -> str:
        """The URL of a file; as `Address.of`."""
        return below(self.prefix, escaped(rendition.name))


@dataclass(frozen=True)
class Whole:
    """Absolute addresses, for images that other sites show.

    Attributes:
        site: the address that the site is published at, without a slash at its end.
        inner: how its pages reach the files.
    """

    site: str
    inner: Address

    @property
    def by_accept(self) -> bool:
        """As the pages' own."""
        return self.inner.by_accept

    def of(self, picture: Picture, crop: Crop, rendition: Rendition) -> str:
        """The URL of a file; as `Address.of`."""
        address = self.inner.of(picture, crop, rendition)
        return address if "://" in address else f"{self.site}/{address.lstrip('/')}"


@dataclass(frozen=True)
class InCall:
    """Files that are named by an author's own call, such as `{% static 'pictures/a.webp' %}`, or behind what code prints.

    Attributes:
        prefix: the path of the folder, as the call sees it, without a slash at its end.
        before: the words in front of the path.
        after: those behind it.
    """

    prefix: str
    before: str
    after: str

    @property
    def by_accept(self) -> bool:
        """No: a file has one format."""
        return False

    def of(self, _picture: Picture, _crop: Crop, rendition: Rendition) -> str:
        """The words for a file; as `Address.of`, but that code is not escaped."""
        return f"{self.before}{below(self.prefix, escaped(rendition.name))}{self.after}"


def below(prefix: str, path: str) -> str:
    """The URL of a path below a prefix; the path alone if that is empty."""
    return f"{prefix}/{path}" if prefix else path


def escaped(name: str, *, keeps: str = "") -> str:
    """One part of a path; all that srcset, HTML, CSS or a path would take for its own is escaped, as UTF-8.

    Args:
        name: the part, unescaped; surrogates become the bytes that they represent.
        keeps: letters that are not changed next to those of a path's part.
    """
    return _UNSAFE.sub(lambda found: found[0] if found[0] in keeps else _escapes(found[0]), name)


def _escapes(text: str) -> str:
    return "".join(f"%{byte:02X}" for byte in text.encode("utf-8", "surrogateescape"))
