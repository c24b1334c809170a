"""What pages fetch together, on a phone and on a desktop."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
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


def pairs_shown_on(page: Page) -> set[Pair]:
    """Slot and master of the pictures that a page shows."""
    return {(ask.slot, ask.key) for ask in page.asks if ask.key and not ask.fault and ask.block.is_shown}


def pairs_named_on(page: Page) -> set[Pair]:
    """Slot and master of all pictures that a page names, also those that it does not show."""
    return {(ask.slot, ask.key) for ask in page.asks if ask.key and not ask.fault}


@dataclass(frozen=True)
class Weighed:
    """What a picture weighs; small, because a large site has many.

    Attributes:
        master_bytes: bytes of the master.
        files: how many files there are of it.
        total: their bytes together.
        fetched: the file that each device fetches, and its bytes.
    """

    slot: str
    master: str
    master_bytes: int
    files: int
    total: int
    fetched: dict[Device, tuple[str, int]]

    def saving(self, device: Device) -> float:
        """The share of the master's bytes that a device is spared; negative if it fetches more."""
        return 1 - self.fetched[device][1] / self.master_bytes


def weigh(pictures: Iterable[Picture], weights: Mapping[str, int]) -> dict[Pair, Weighed]:
    """What pictures weigh.

    Args:
        pictures: pictures that are there, or will be.
        weights: bytes of all their files, by name.
    """
    weighed = {}
    for one in pictures:
        names = {rendition.name for rendition in one.renditions()}
        fetched = {device: one.fetched(device).name for device in (PHONE, DESKTOP)}
        weighed[one.slot.name, one.master.key] = Weighed(
            one.slot.name,
            one.master.key,
            one.master.size,
            len(names),
            sum(weights[name] for name in names),
            {device: (name, weights[name]) for device, name in fetched.items()},
        )
    return weighed


def sum_pages(on_pages: Sequence[Collection[Pair]], pictures: Mapping[Pair, Weighed]) -> PageSums:
    """What pages fetch together. A file is fetched once for a page, however often it shows it.

    Args:
        on_pages: slot and master of what each page shows; pages that show nothing are left out.
        pictures: the pictures that are there, or will be.
    """
    masters, fetched = 0, dict.fromkeys((PHONE, DESKTOP), 0)
    for pairs in on_pages or [pictures.keys()]:
        shown = [pictures[pair] for pair in sorted(pairs) if pair in pictures]
        masters += sum({one.master: one.master_bytes for one in shown}.values())
        for device in fetched:
            fetched[device] += sum(dict(one.fetched[device] for one in shown).values())
    return PageSums(len(on_pages), masters, fetched)
