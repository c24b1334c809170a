"""What pages fetch together, on a phone and on a desktop."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import TypeAlias

from sarvel.core.css.device import Device
from sarvel.core.edition.compose import Picture
from sarvel.pages.read.asks import Page

# Two ends of the built-in audience: a narrow viewport that is dense, and a wide one.
PHONE = Device(360, 740, 3)
DESKTOP = Device(1920, 1080, 1)

Pair: TypeAlias = tuple[str, str]  # slot and master


@dataclass(frozen=True)
class PageSums:
    """What all pages together fetch of the pictures that are woven into them, each once a page.

    Attributes:
        count: how many pages show any; 0 if none does, then all pictures count as one page.
        masters: bytes of the masters.
        fetched: bytes that each device fetches.
    """

    count: int
    masters: int
    fetched: dict[Device, int]


def shown_on(page: Page) -> set[Pair]:
    """Slot and master of the pictures that a page shows."""
    return {(ask.slot, ask.key) for ask in page.asks if ask.key and not ask.fault}


def summed(
    on_pages: Sequence[Collection[Pair]], pictures: Mapping[Pair, Picture], weights: Mapping[str, int]
) -> PageSums:
    """What pages fetch together. A file is fetched once for a page, however often it shows it.

    Args:
        on_pages: slot and master of what each page shows; pages that show nothing are left out.
        pictures: the pictures that are there, or will be.
        weights: bytes of all their files, by name.
    """
    masters, fetched = 0, dict.fromkeys((PHONE, DESKTOP), 0)
    for pairs in on_pages or [pictures.keys()]:
        shown = [pictures[pair] for pair in sorted(pairs) if pair in pictures]
        masters += sum({one.master.key: one.master.size for one in shown}.values())
        for device in fetched:
            fetched[device] += sum(weights[name] for name in {one.fetched(device).name for one in shown})
    return PageSums(len(on_pages), masters, fetched)
