"""Image elements: the attributes that decide which file is fetched, and alts that are file names."""

from __future__ import annotations

import functools
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

from sarvel.core.html.srcset import Candidate, parse_srcset

_CAMERA = re.compile(r"(?:IMG|DSC|DSCN|DSCF|PXL)[-_]?\d{3,}(?:[-_]\d+)*", re.IGNORECASE)
_FILE_NAME = re.compile(r"[^\s/]+\.(?:jpe?g|png|webp|avif|gif|tiff?|svg|jxl|heic|bmp)", re.IGNORECASE)


def is_file_name(text: str) -> bool:
    """Tells whether a text is only the name of an image file."""
    return bool(_FILE_NAME.fullmatch(text.strip()))


def names_a_file(alt: str, src: str) -> bool:
    """Tells whether an alt is but a name of a file: with its ending, as that of its own file without, or as cameras give them.

    Args:
        src: the address of its own file.
    """
    words = alt.strip()
    stem = src.split("?", 1)[0].rsplit("/", 1)[-1].rsplit(".", 1)[0]
    own = words == stem and re.search(r"[-_\d]", stem) and not words.isdecimal()  # a number is what a callout says
    return bool(is_file_name(words) or own or _CAMERA.fullmatch(words))


class Offer(NamedTuple):
    """All by which a browser decides about a source, or about the img itself: equal for images that differ in addresses alone.

    Attributes:
        listed: whether it has a srcset.
        media: its media condition; None for none.
        descriptors: width (px) and density of each sound candidate; both None if it has neither.
    """

    listed: bool
    media: str | None
    type: str
    sizes: str
    descriptors: tuple[tuple[int | None, float | None], ...]


@dataclass(frozen=True)
class ImageElement:
    """One img of a page.

    Attributes:
        attributes: its own, by lower-case name, character references resolved.
        sources: those of the source elements of its picture that are before it, in order; none if it is in no picture.
        start: where its tag begins in the page.
    """

    attributes: Mapping[str, str]
    sources: tuple[Mapping[str, str], ...]
    start: int

    @functools.cached_property
    def candidates(self) -> tuple[tuple[Candidate, ...], ...]:
        """The sound candidates of each source, in order, and last those of the img, its src among them where that counts."""
        *sources, own = (
            [one for one in parse_srcset(tag.get("srcset", "")) if not one.fault]
            for tag in (*self.sources, self.attributes)
        )
        src = self.attributes.get("src", "").strip("\t\n\f\r ")
        if src and not any(one.width is not None or one.density == 1 for one in own):
            own.append(Candidate(src))
        return tuple(map(tuple, (*sources, own)))

    @functools.cached_property
    def offers(self) -> tuple[Offer, ...]:
        """What each source offers, in order, and last the img."""
        return tuple(
            Offer(
                "srcset" in tag,
                tag.get("media"),
                tag.get("type", ""),
                tag.get("sizes", ""),
                tuple((one.width, one.density) for one in candidates),
            )
            for tag, candidates in zip((*self.sources, self.attributes), self.candidates, strict=True)
        )
