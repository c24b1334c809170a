"""Fingerprints: all that a file is made from, told as text in a fixed form, and the digest of that text.

The form is a public promise, described in docs/press.md: published file names depend on it. It names every field in words of
its own, so that no renaming within the program changes a name. Anyone who adds a line raises FORM; anyone who changes what the
same settings make of the same pixels raises RECIPE. Both change the names of all files.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Sequence

from sarvel.core.crop.place import Box
from sarvel.core.edition.encoding import Encoding, Size
from sarvel.core.model import Gamut, Treatment

FORM = 1
"""The version of the form."""

RECIPE = 7
"""The version of how pixels are made."""

_BYTES = 16  # of a digest: among a billion files, two that differ have one digest with a chance of 1 in 10^21

IN_NAMES = 10
"""Hexadecimal digits of a digest that are in a file's name, next to those of master, slot and crop."""


def describe_crop(master: str, box: Box, treatment: Treatment, gamut: Gamut) -> str:
    """The first lines of a fingerprint: the crop.

    Args:
        master: the digest of the master's bytes.
        box: px of the upright master, turned and mirrored as the treatment says.
    """
    edges = " ".join(float(edge).hex() for edge in box.edges)
    return _lines(
        ("sarvel", FORM),
        ("recipe", RECIPE),
        ("master", master),
        ("box", edges),
        ("rotate", treatment.rotate),
        ("mirror", treatment.mirror),
        ("pad", treatment.pad),
        ("matte", treatment.matte),
        ("grey", treatment.grey),
        ("gamut", gamut),
    )


def describe_search(likeness: float, sizes: Sequence[Size], *, drawn: bool) -> str:
    """The search for an encoder's number, in one line."""
    return f"{likeness:g}{' drawn' if drawn else ''} on {' '.join(f'{width}x{height}' for width, height in sizes)}"


def describe_encoding(format_: str, codec: str, encoding: Encoding) -> str:
    """The next lines of a fingerprint: the encoding.

    Args:
        format_: the format, as plans call it.
        codec: the library and version that write it, and their settings.
    """
    search = encoding.search
    return _lines(
        ("format", format_),
        ("codec", codec),
        ("lossless", encoding.lossless),
        ("quality", "" if encoding.quality is None else encoding.quality),
        ("search", describe_search(search.likeness, search.sizes, drawn=encoding.drawn) if search else ""),
        ("drawn", encoding.drawn),
        ("interlace", encoding.interlace),
        ("metadata", " ".join(encoding.metadata)),
    )


def describe_size(size: Size) -> str:
    """The size of a file, px, as the last line of its fingerprint."""
    return _lines(("size", f"{size[0]}x{size[1]}"))


def digest_of(*texts: str) -> str:
    """The digest of a fingerprint, whose lines are in these texts: 32 hexadecimal digits."""
    return hashlib.blake2b("".join(texts).encode(), digest_size=_BYTES).hexdigest()


def digests_of(begin: str, sizes: Sequence[Size]) -> Iterator[str]:
    """The digests of fingerprints that differ in their size alone; a large site has thousands of those."""
    begun = hashlib.blake2b(begin.encode(), digest_size=_BYTES)
    for size in sizes:
        digest = begun.copy()
        digest.update(describe_size(size).encode())
        yield digest.hexdigest()


def _lines(*said: tuple[str, str | int | bool]) -> str:
    """A line for each field: its name and value; yes or no, and nothing for an empty value."""
    words = ((name, ("yes" if value else "no") if isinstance(value, bool) else str(value)) for name, value in said)
    return "".join(f"{name} {value}".rstrip() + "\n" for name, value in words)
