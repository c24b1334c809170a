"""Images that a page opens with, and that are eager by their place: the first in a header, and the first large one."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator

from sarvel.core.css.device import Device
from sarvel.core.edition.compose import Edition, Picture
from sarvel.core.html.words import SCREEN, words_in
from sarvel.pages.read.asks import Ask, Page

_SEEN_ON = (Device(390, 844, 3), Device(1440, 900, 1))  # a common phone and desktop
_LARGE = 0.2  # share of a screen: a logo or a row of thumbnails fills less, a banner more
_BODY = re.compile(r"<body(?=[\s>])[^>]*>", re.IGNORECASE)
_LOADING = re.compile(r"\sloading\s*=", re.IGNORECASE)
_HEADER = re.compile(r"<header(?=[\s>])", re.IGNORECASE)


def opening(page: Page, edition: Edition) -> list[Ask]:
    """The images of a page that are seen at once, by the plan or by their place."""
    asks = [ask for ask in page.asks if not ask.fault and ask.block.mention is None and _picture(ask, edition)]
    is_called = page.file.dialect.camel  # a component has one way of loading for each picture
    by_place = set() if is_called else {*_in_header(page, asks), *_first_large(page, asks, edition)}
    return [
        ask
        for ask in asks
        if (picture := _picture(ask, edition))
        and (
            picture.slot.loading == "eager"
            or (picture.slot.opens_eager and ask.block.start in by_place and not _LOADING.search(ask.block.image))
        )
    ]


def share_of_screens(picture: Picture) -> float:
    """The shares of a phone's and a desktop's viewport that a picture fills if it is at their top, together."""
    return sum(_share(picture, device) for device in _SEEN_ON)


def _picture(ask: Ask, edition: Edition) -> Picture | None:
    return edition.pictures.get((ask.slot, ask.key or ""))


def _in_header(page: Page, asks: list[Ask]) -> Iterator[int]:
    text = page.text.text
    if asks and _HEADER.search(text):
        starts = (ask.block.start for ask in asks)
        inside = (one for one in starts if any(tag.name == "header" for tag in page.ancestors[one]))
        yield from itertools.islice(inside, 1)


def _first_large(page: Page, asks: list[Ask], edition: Edition) -> Iterator[int]:
    """The first image that fills much of a screen, unless a screen of words is before it, or the file is no whole page."""
    text, body = page.text.text, _BODY.search(page.text.text)
    for ask in asks if body else ():
        picture = _picture(ask, edition)
        if picture and max(_share(picture, device) for device in _SEEN_ON) >= _LARGE:
            if body and words_in(text[body.end() : ask.block.start]) <= SCREEN:
                yield ask.block.start
            return


def _share(picture: Picture, device: Device) -> float:
    box = picture.crop_on(device).box
    width = min(picture.slot.shown.on(device) or 0.0, device.width)
    return width * min(width * box.height / box.width, device.height) / (device.width * device.height)
