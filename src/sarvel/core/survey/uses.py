"""Uses of image files in pages and stylesheets, and the pixels that devices need there."""

from __future__ import annotations

import html
import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, TypeAlias

from sarvel.core.css.device import Device
from sarvel.core.css.lengths import Length, LengthError, parse_length
from sarvel.core.css.sheet import Declaration, declarations_of, naming_files
from sarvel.core.html.document import Document, Image, span_of, value_of
from sarvel.core.html.mentions import PICTURES, SHOWING_ONE, Mention
from sarvel.core.html.mentions import Use as Purpose
from sarvel.core.html.source_selection import pick
from sarvel.core.html.srcset import parse_srcset
from sarvel.core.html.tags import words_of
from sarvel.core.html.template_code import holds_code
from sarvel.core.layout.audience import Visits
from sarvel.core.layout.ladder import DENSEST
from sarvel.core.model import Slot

Kind: TypeAlias = Literal["img", "preload", "script"] | Purpose
"""Kinds of places that name a file: an img with its sources, a link that preloads one, a data attribute for scripts, or a use of
`core.html.mentions`."""

_FOR_SCRIPTS = re.compile(
    r"""\sdata-(?!woven|was-|master|sarvel)[\w-]+\s*=\s*(["'])([^"'<>]{1,1000}?)\1""", re.IGNORECASE
)


@dataclass(frozen=True)
class Need:
    """The need of one device of the audience.

    Attributes:
        share: its share of all visits, 0 to 1.
        width: px across.
    """

    share: float
    width: float


@dataclass(frozen=True)
class Use:
    """One place where a file is named.

    Attributes:
        url: as written.
        start: where that is, in the text.
        shown: how wide it is shown, CSS px, from the narrowest to the widest; None if nothing tells.
        needs: of the devices that fetch it; none if another file is fetched in its place by all.
    """

    url: str
    start: int
    kind: Kind
    shown: tuple[float, float] | None
    needs: tuple[Need, ...]


def uses_of(page: Document, audience: Sequence[Visits], slots: Mapping[str, Slot]) -> Iterator[Use]:
    """Uses of files in a page, in no order; addresses that a template engine writes are left out.

    Args:
        audience: the devices that it is visited with.
        slots: of the plan, by name; none without one.
    """
    for image in page.images:
        yield from _of_image(image, audience, slots)
    yield from _others(page, audience)
    for start, css in page.styles:
        yield from uses_of_sheet(naming_files(css), audience, start)
    for tag in page.styled:
        start = span_of(tag, "style")[0]
        for one in uses_of_sheet(declarations_of(value_of(tag, "style") or ""), audience):
            yield Use(one.url, start, one.kind, one.shown, one.needs)


def uses_of_sheet(rules: Iterable[Declaration], audience: Sequence[Visits], start: int = 0) -> Iterator[Use]:
    """The uses in a stylesheet. It does not tell how wide a background is shown: the viewport's width is taken.

    Args:
        audience: the devices that it is visited with.
        start: where it begins in its page.
    """
    for rule in rules:
        for url in dict.fromkeys(url.url for url in rule.urls):
            if not PICTURES.search(url) or holds_code(url):
                continue
            if SHOWING_ONE.match(rule.name):
                yield Use(url, start + rule.start, "style", None, ())
            else:
                needs = _needs([(visits, visits.device.width) for visits in audience], audience)
                yield Use(url, start + rule.start, "background", None, needs)


def _others(page: Document, audience: Sequence[Visits]) -> Iterator[Use]:
    """The uses in mentions, in links that preload images, and in data attributes."""
    for mention in page.mentions:
        if not mention.part and not holds_code(mention.url):
            yield Use(mention.url, mention.start, mention.use, None, _needs_of(mention, audience))
    for link in page.links:
        rels = (value_of(link, "rel") or "").lower().split()
        if "preload" in rels and (value_of(link, "as") or "").strip().lower() == "image":
            listed = parse_srcset(value_of(link, "imagesrcset") or "")
            for url in filter(None, dict.fromkeys([value_of(link, "href") or "", *(one.url for one in listed)])):
                yield Use(url, link.start, "preload", None, ())
    for found in _FOR_SCRIPTS.finditer(page.text):
        if PICTURES.search(found[2].strip()) and not holds_code(found[2]):
            yield Use(html.unescape(found[2].strip()), found.start(2), "script", None, ())


def _needs_of(mention: Mention, audience: Sequence[Visits]) -> tuple[Need, ...]:
    """The needs at a place that is shown with its page, whose width nothing tells: the viewport's is taken."""
    if mention.use != "single":
        return ()
    return _needs([(visits, visits.device.width) for visits in audience], audience)


def _of_image(image: Image, audience: Sequence[Visits], slots: Mapping[str, Slot]) -> Iterator[Use]:
    """The files of one image: each with the devices that fetch it."""
    places = _addresses(image)
    element, shown = image.element, _shown(image, slots)
    fetched: dict[str, list[tuple[Visits, float]]] = {}
    known: dict[str, list[float]] = {}
    for visits in audience:
        found = pick(element, visits.device)
        width = found.shown if found.shown is not None and not image.is_ask else shown(visits.device)
        fetched.setdefault(found.url, []).append((visits, visits.device.width if width is None else width))
        known.setdefault(found.url, []).extend([] if width is None else [width])
    for url, start in places.items():
        widths = known.get(url, [])
        needs = _needs(fetched.get(url, []), audience)
        yield Use(url, start, "img", (min(widths), max(widths)) if widths else None, needs)


def _addresses(image: Image) -> dict[str, int]:
    """Addresses of an image, each with the offset where it is first written."""
    places: dict[str, int] = {}
    for tag in image.tags:
        src = words_of(tag) if tag.name == "img" else None
        srcset = value_of(tag, "srcset") or ""
        listed = [one.url for one in parse_srcset(srcset) if not one.fault] if not holds_code(srcset) else []
        for name, urls in (("srcset", listed), ("src", [src.strip()] if src and src.strip() else [])):
            for url in urls:
                if not url.startswith("data:"):
                    places.setdefault(url, span_of(tag, name)[0] if tag.get(name) else tag.start)
    return places


def _shown(image: Image, slots: Mapping[str, Slot]) -> Callable[[Device], float | None]:
    """The shown width of an image without `sizes`: from its slot, its style or its width attribute."""
    slot = slots.get(image.slot)
    if slot:
        return slot.shown.on
    width = (value_of(image.tag, "width") or "").strip()
    lengths = [one.value for one in declarations_of(value_of(image.tag, "style") or "") if one.name == "width"]
    lengths += [f"{width}px"] if width.isdecimal() and int(width) else []
    length = next((found for css in lengths if (found := _length(css))), None)
    return lambda device: min(length.on(device), device.width) if length else None


def _length(css: str) -> Length | None:
    try:
        return parse_length(css)
    except LengthError:
        return None


def _needs(fetched: Sequence[tuple[Visits, float]], audience: Sequence[Visits]) -> tuple[Need, ...]:
    total = sum(visits.share for visits in audience)
    return tuple(
        Need(visits.share / total, width * min(visits.device.dpr, DENSEST)) for visits, width in fetched if width > 0
    )
