"""Selection of an image's file by HTML's rules (section 4.8.4.3 "Images, Processing model").

What belongs here: one image's attributes and those of its picture's sources, to one URL and the reasons. What does not:
finding them in a page (`images`), parsing (`srcset`, `sizes`), and the one rule by density (`candidates`).
"""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass

from sarvel.core.css.device import Device
from sarvel.core.css.media import parse_media
from sarvel.core.html.density import select
from sarvel.core.html.document import read_document
from sarvel.core.html.images import ImageElement, Offer
from sarvel.core.html.sizes import parse_sizes, sizes_on
from sarvel.core.html.srcset import parse_srcset


@dataclass(frozen=True)
class Choice:
    """One file that a browser could fetch from the source that it settled on.

    Attributes:
        url: as written.
        density: image px for each CSS px; infinite where the shown width is 0.
        width: its `w` descriptor, px; None if it has none.
    """

    url: str
    density: float
    width: int | None


@dataclass(frozen=True)
class Pick:
    """The file that a device fetches for an image, and the candidates.

    Attributes:
        url: as written; "" for none.
        source: place of the source element among the image's, from 0; None for the img itself.
        choices: the candidates it was picked from, in order, without dropped ones.
        chosen: place of the pick among the choices, or None.
        shown: the width that `sizes` gives, CSS px; None where no candidate has a width.
    """

    url: str
    source: int | None
    choices: tuple[Choice, ...]
    chosen: int | None
    shown: float | None


def pick_source(markup: str, device: Device) -> str:
    """The file that a browser fetches for the first image of a piece of markup.

    Args:
        markup: HTML with an `img`, in a `picture` or not.

    Returns:
        The URL as written; "" if there is no image or nothing to fetch for it.
    """
    images = read_document(markup).images
    return pick(images[0].element, device).url if images else ""


def pick(image: ImageElement, device: Device) -> Pick:
    """The file that a device fetches for an image."""
    place, shown, densities, chosen = _settled(image.offers, device)
    candidates = image.candidates[place]
    choices = tuple(Choice(candidates[i].url, density, candidates[i].width) for i, density in densities)
    url = choices[chosen].url if chosen is not None else ""
    return Pick(url, place if place < len(image.sources) else None, choices, chosen, shown)


def passed_over(image: ImageElement, device: Device) -> list[str]:
    """The sources and candidates that a device does not choose, with reasons, in order."""
    passed: list[str] = []
    for i, (tag, offer) in enumerate(zip((*image.sources, image.attributes), image.offers, strict=True)):
        is_img = i == len(image.sources)
        where, reason = ("img", "") if is_img else (f"source {i + 1}", _unfit(offer, device))
        faulty = [] if reason else [one for one in parse_srcset(tag.get("srcset", "")) if one.fault]
        passed += [f"{where}: {one.url} dropped: {one.fault}" for one in faulty]
        if is_img or (offer.descriptors and not reason):
            break
        passed.append(f"{where}: {reason or 'has no candidate that counts'}")
    return passed


def supports(media_type: str, device: Device) -> bool:
    """Tells whether a device decodes what a `type` attribute names; parameters and letter case do not count."""
    return not media_type or media_type.split(";", maxsplit=1)[0].strip().lower() in device.formats


def _unfit(source: Offer, device: Device) -> str:
    """The reason why a source is passed over before its srcset is looked at; "" for none."""
    if not source.listed:
        return "has no srcset"
    if source.media is not None and not parse_media(source.media).matches(device):
        return f"media {source.media.strip()} does not hold"
    if not supports(source.type, device):
        return f"type {source.type.strip()} is not understood"
    return ""


@functools.lru_cache(maxsize=4096)
def _settled(
    offers: tuple[Offer, ...], device: Device
) -> tuple[int, float | None, tuple[tuple[int, float], ...], int | None]:
    """The choice of a device among offers, which many images of a site have in common.

    Returns:
        The place of the offer; the width that its `sizes` gives; the places of its candidates, those whose density an
        earlier one has left out, with their densities; and the place of the chosen one among these.
    """
    *sources, own = range(len(offers))
    place = next((i for i in sources if offers[i].descriptors and not _unfit(offers[i], device)), own)
    offer, shown = offers[place], None
    if any(width is not None for width, _ in offer.descriptors):
        shown = sizes_on(parse_sizes(offer.sizes), device).on(device)
    first: dict[float, int] = {}
    for i, (width, density) in enumerate(offer.descriptors):
        first.setdefault(_density(width, density, shown), i)
    chosen = select(list(first), device.dpr) if first else None
    return place, shown, tuple((i, density) for density, i in first.items()), chosen


def _density(width: int | None, density: float | None, shown: float | None) -> float:
    """HTML, "normalize the source densities"."""
    if density is not None:
        return density
    if width is None or shown is None:
        return 1.0
    return width / shown if shown else math.inf
