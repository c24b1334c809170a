"""Selection of an image's file by HTML's rules (section 4.8.4.3 "Images, Processing model").

What belongs here: one image's attributes and those of its picture's sources, to one URL and the reasons. What does not:
finding them in a page (`images`), parsing (`srcset`, `sizes`), and the one rule by density (`candidates`).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from sarvel.core.css.device import Device
from sarvel.core.css.media import parse_media
from sarvel.core.html.density import select
from sarvel.core.html.document import read_document
from sarvel.core.html.images import ImageElement
from sarvel.core.html.sizes import parse_sizes, sizes_on
from sarvel.core.html.srcset import Candidate, parse_srcset


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
    """The file that a device fetches for an image, and why.

    Attributes:
        url: as written; "" for none.
        source: place of the source element among the image's, from 0; None for the img itself.
        choices: the candidates it was picked from, in order, without dropped ones.
        chosen: place of the pick among the choices, or None.
        shown: the width that `sizes` gives, CSS px; None where no candidate has a width.
        passed: sources and candidates that were not chosen, with reasons, in order.
    """

    url: str
    source: int | None
    choices: tuple[Choice, ...]
    chosen: int | None
    shown: float | None
    passed: tuple[str, ...]


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
    """The file that a device fetches for an image, and why."""
    passed: list[str] = []
    for i, attributes in enumerate(image.sources):
        reason = _unfit(attributes, device)
        candidates = _usable(attributes.get("srcset", ""), f"source {i + 1}", passed) if not reason else []
        if reason or not candidates:
            passed.append(f"source {i + 1}: {reason or 'has no candidate that counts'}")
            continue
        return _from(candidates, attributes, device, i, passed)
    candidates = _usable(image.attributes.get("srcset", ""), "img", passed)
    src = image.attributes.get("src", "").strip("\t\n\f\r ")
    if src and not any(one.width is not None or one.density == 1 for one in candidates):
        candidates.append(Candidate(src))
    return _from(candidates, image.attributes, device, None, passed)


def supports(media_type: str, device: Device) -> bool:
    """Tells whether a device decodes what a `type` attribute names; parameters and letter case do not count."""
    return not media_type or media_type.split(";", maxsplit=1)[0].strip().lower() in device.formats


def _unfit(attributes: Mapping[str, str], device: Device) -> str:
    """The reason why a source is passed over before its srcset is looked at; "" for none."""
    if "srcset" not in attributes:
        return "has no srcset"
    if "media" in attributes and not parse_media(attributes["media"]).matches(device):
        return f"media {attributes['media'].strip()} does not hold"
    if not supports(attributes.get("type", ""), device):
        return f"type {attributes['type'].strip()} is not understood"
    return ""


def _usable(srcset: str, where: str, passed: list[str]) -> list[Candidate]:
    candidates = parse_srcset(srcset)
    passed += [f"{where}: {one.url} dropped: {one.fault}" for one in candidates if one.fault]
    return [one for one in candidates if not one.fault]


def _from(
    candidates: list[Candidate], attributes: Mapping[str, str], device: Device, source: int | None, passed: list[str]
) -> Pick:
    shown = None
    if any(one.width is not None for one in candidates):
        shown = sizes_on(parse_sizes(attributes.get("sizes", "")), device).on(device)
    choices: dict[float, Choice] = {}
    for one in candidates:
        density = _density(one, shown)
        choices.setdefault(density, Choice(one.url, density, one.width))  # of equals the first stays
    listed = tuple(choices.values())
    if not listed:
        return Pick("", source, (), None, shown, tuple(passed))
    chosen = select([choice.density for choice in listed], device.dpr)
    return Pick(listed[chosen].url, source, listed, chosen, shown, tuple(passed))


def _density(candidate: Candidate, shown: float | None) -> float:
    """HTML, "normalize the source densities"."""
    if candidate.density is not None:
        return candidate.density
    if candidate.width is None or shown is None:
        return 1.0
    return candidate.width / shown if shown else math.inf
