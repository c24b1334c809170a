"""Preload links for a picture that is seen at once: one for each crop; a browser follows at most one.

A browser follows a link if its `media` holds and it knows the `type`, and then selects from `imagesrcset` as from `srcset`
(HTML, section 4.6.7.13 "Link type preload"). So each link names the best format alone, and excludes the crops tried earlier:
it then fetches what the picture will, or, by a browser without that format, nothing.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from sarvel.core.address.address import Address
from sarvel.core.edition.compose import Picture
from sarvel.core.markup.picture import ladders_of, write_markup

_FROM = re.compile(r"\(min-width: (\d+(?:\.\d+)?)px\)")
_BESIDE = 0.02  # CSS px: windows of zoomed pages have widths between whole px


@dataclass(frozen=True)
class Preload:
    """The attributes of one link; "" is one left out."""

    media: str
    type: str
    srcset: str
    sizes: str


def preloads(picture: Picture, address: Address) -> list[Preload]:
    """The links for a picture, in the order in which its crops are tried."""
    markup = write_markup(picture, address, None)
    sources = {source.srcset: source for source in (*markup.sources, markup.image)}
    links: list[Preload] = []
    tried: list[str] = []
    for crop, srcset in zip(picture.crops, _best(picture, list(sources), address), strict=True):
        media = crop.rule.media.css
        said = _met_first(media, tried)
        type_ = "" if address.by_accept else next(iter(crop.renditions.values()))[0].media_type
        links.append(Preload(said, type_, srcset, sources[srcset].sizes))
        tried.append(media)
    return links


def _met_first(media: str, tried: Sequence[str]) -> str:
    """The media condition of a crop, less what crops meet that are tried before it.

    Where each begins at a width, it is a range of widths, which every browser reads. Others need the syntax of Media Queries
    Level 4, section 2.5: older browsers ignore it, and preload nothing.
    """
    starts = [found for one in tried if (found := _FROM.fullmatch(one))]
    if tried and len(starts) == len(tried) and (not media or _FROM.fullmatch(media)):
        end = min(float(found[1]) for found in starts) - _BESIDE
        return " and ".join([*([media] if media else []), f"(max-width: {end:.2f}px)"])
    excluded = [f"(not {_grouped(one)})" for one in tried]
    return " and ".join([*([_grouped(media) if tried else media] if media else []), *excluded])


def _best(picture: Picture, srcsets: list[str], address: Address) -> list[str]:
    """The srcset of each crop in its best format; markup lists all formats of a crop before the next crop."""
    best, at = [], 0
    for crop in picture.crops:
        best.append(srcsets[at])
        at += len(ladders_of(crop, address))
    return best


def _grouped(media: str) -> str:
    """A media condition as a part of another."""
    return media if media.count("(") == 1 and media.startswith("(") else f"({media})"
