"""The live list: each image that a browser asks for, and each that it would fetch again as its window changes."""

from __future__ import annotations

import threading
import time
import urllib.parse
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from sarvel.core.css.device import Device
from sarvel.core.layout.audience import Visits
from sarvel.errors import PageError
from sarvel.pages.read.page_files import read_text
from sarvel.plan.read import Plan
from sarvel.tools.pick import Outcome, PageImage, images_of, outcomes

_MOST = 1000  # images of a page that are listed; no one reads on


@dataclass(frozen=True)
class LiveRow:
    """A line of the list.

    Attributes:
        page: the page, as its address has it; "" where the browser does not say.
        slot: the slot of the image; "" where it has none.
        width: px across; None where that is not known.
        weight: bytes; None where that is not known.
        device: the window that it is for; None where the browser has not told.
        verdict: how it fits, in words; "" where that is not known.
        fetched: whether it was asked for, and not only would be.
    """

    page: str
    slot: str
    file: str
    width: int | None
    weight: int | None
    device: Device | None
    verdict: str
    fetched: bool


@dataclass
class Live:
    """Requests of browsers, and the answers.

    Attributes:
        plan: the current plan, or None.
    """

    plan: Plan | None
    _asked: dict[tuple[str, str], tuple[float, int]] = field(default_factory=dict)
    _told: dict[tuple[str, int], str] = field(default_factory=dict)
    _lock: threading.Lock = field(default_factory=threading.Lock)

    def ask(self, page: str, path: str, weight: int) -> None:
        """Remembers that a page asked for an image; which slot it is for is known once the page describes its window."""
        with self._lock:
            self._asked[page, path.rsplit("/", 1)[-1]] = (time.monotonic(), weight)

    def rows_of_view(self, page: str, file: Path, device: Device, *, first: bool) -> list[LiveRow]:
        """The files that a page fetches in a window: at its first view all images, then what changes.

        Args:
            first: whether the page has just been loaded.
        """
        found = self._outcomes(file, device)  # may take long, and others ask in the meantime
        with self._lock:
            if first:
                self._told = {key: url for key, url in self._told.items() if key[0] != page}
            return list(self._rows(page, found))

    def rows_unexplained(self, older: float) -> list[LiveRow]:
        """Files that were asked for so many seconds ago, and that no view explains, such as backgrounds; each once."""
        now = time.monotonic()
        with self._lock:
            late = {key: weight for key, (when, weight) in self._asked.items() if now - when >= older}
            for key in late:
                del self._asked[key]
        return [LiveRow(page, "", name, None, weight, None, "", fetched=True) for (page, name), weight in late.items()]

    def _outcomes(self, file: Path, device: Device) -> list[tuple[PageImage, Outcome]]:
        """The files that a page fetches in a window for its images; the list shows so many."""
        try:
            text = read_text(file).text
        except PageError:
            return []
        images = images_of(text, file, self.plan)[:_MOST]
        found = outcomes(images, [Visits(device, 1, "")], text, file, self.plan)
        return [(image, found[image.number][0]) for image in images]

    def _rows(self, page: str, found: Sequence[tuple[PageImage, Outcome]]) -> Iterator[LiveRow]:
        for image, outcome in found:
            name = urllib.parse.unquote(outcome.pick.url.partition("?")[0].rsplit("/", 1)[-1])
            asked = self._asked.pop((page, name), None)
            if self._told.get((page, image.number)) == outcome.pick.url:
                continue
            self._told[page, image.number] = outcome.pick.url
            yield _row(page, image.slot, name, outcome, asked=asked)


def _row(page: str, slot: str, name: str, outcome: Outcome, *, asked: tuple[float, int] | None) -> LiveRow:
    width = outcome.fit.width
    return LiveRow(
        page,
        slot,
        name or "no file",
        None if width is None else round(width),
        outcome.weight,
        outcome.visits.device,
        outcome.verdict,
        fetched=asked is not None,
    )
