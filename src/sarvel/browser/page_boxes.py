"""The boxes of a page over all viewports: looked at until every bend is known to the pixel, within bounds of time."""

from __future__ import annotations

import time
from collections.abc import Iterable
from dataclasses import dataclass, field

from sarvel.browser.look import Boxes, ShownBox
from sarvel.browser.session import Session
from sarvel.browser.views import HEIGHT, Names, Opened, opened
from sarvel.core.layout.bends import Widths, closer_looks, first_looks
from sarvel.core.layout.fitted import Pull, middles
from sarvel.core.survey.breakpoints import breakpoints_of

_FONT = 18  # CSS px: a little more than every browser begins with, so that no media query in em moves far
_TALLER = 100  # CSS px
_MOST = 420  # looks at a page; a layout that bends more often is not made of lines
_LONGEST = 90.0  # seconds for a page
_AT_ONCE = 20  # looks between two looks at the clock


@dataclass
class PageBoxes:
    """The boxes of one page.

    Attributes:
        boxes: by place, then by viewport width, CSS px.
        pulls: by place, then by viewport width, CSS px: other dependencies of the width.
        first: by place, the share that each fills of the first screen of a phone and of a desktop.
        unhidden: places that no viewport shows; they were measured as if shown.
        breakpoints: viewport widths where media queries begin or end, CSS px.
        whole: whether every bend was found in time.
        named: of each image, the address of its file, and its classes; only if that was asked for.
    """

    boxes: dict[int, dict[int, ShownBox]] = field(default_factory=dict)
    pulls: dict[int, dict[int, Pull]] = field(default_factory=dict)
    first: dict[int, tuple[float, float]] = field(default_factory=dict)
    unhidden: set[int] = field(default_factory=set)
    breakpoints: list[float] = field(default_factory=list)
    whole: bool = True
    named: Names = field(default_factory=list)

    def widths(self, place: int) -> Widths:
        """The measured widths of a box, CSS px, by viewport width; None where it is not shown."""
        return {at: box.width if box.shown else None for at, box in self.boxes.get(place, {}).items()}


def measure(browser: Session, path: str, *, named: bool = False) -> PageBoxes:
    """Measures a page; arguments and errors are those of `opened`."""
    return _Measuring(browser, opened(browser, path, named=named)).all()


class _Measuring:
    """One page being measured."""

    def __init__(self, browser: Session, page: Opened) -> None:
        self._browser, self._view = browser, page.view
        breakpoints = sorted(breakpoints_of(page.media))
        self._page = PageBoxes(first=dict(page.first), breakpoints=breakpoints, named=page.named)
        self._unhides = False
        self._ends = time.monotonic() + _LONGEST

    def all(self) -> PageBoxes:
        self._look_at(first_looks(self._page.breakpoints))
        self._look_closer()
        self._look_behind()
        self._look_for_pulls()
        return self._page

    def _look_at(self, widths: Iterable[int]) -> None:
        left = list(widths)
        while left:
            if time.monotonic() > self._ends:
                self._page.whole = False
                return
            now, left = left[:_AT_ONCE], left[_AT_ONCE:]
            looks = self._view.looks([(width, HEIGHT) for width in now], unhides=self._unhides)
            for width, boxes in zip(now, looks, strict=True):
                for place, box in boxes.items():
                    if not self._unhides or place in self._page.unhidden:
                        self._page.boxes.setdefault(place, {})[width] = box

    def _look_closer(self) -> None:
        """Looks between points until no box bends in between."""
        while True:
            wanted = {one for place in self._page.boxes for one in closer_looks(self._widths(place))}
            count = max(map(len, self._page.boxes.values()), default=0)
            if not wanted or not self._page.whole:
                return
            if count + len(wanted) > _MOST:
                self._page.whole = False
                return
            self._look_at(sorted(wanted))

    def _widths(self, place: int) -> Widths:
        return self._page.widths(place) if not self._unhides or place in self._page.unhidden else {}

    def _look_behind(self) -> None:
        """Looks at what no viewport shows, as if it were shown."""
        boxes = self._page.boxes
        hidden = {place for place, seen in boxes.items() if not any(box.shown for box in seen.values())}
        if not hidden or not self._page.whole:
            return
        self._page.unhidden = hidden
        self._unhides = True
        for place in hidden:
            boxes[place] = {}
        self._look_at(first_looks(self._page.breakpoints))
        self._look_closer()
        self._unhides = False

    def _look_for_pulls(self) -> None:
        """Looks at the middle of every straight piece with another font size, and with another height."""
        page = self._page
        for unhides in (False, True):
            wanted: dict[int, set[int]] = {}
            for place in page.boxes:
                for at in middles(page.widths(place)) if (place in page.unhidden) == unhides else ():
                    wanted.setdefault(at, set()).add(place)
            widths = sorted(wanted)
            if not widths:
                continue
            if time.monotonic() > self._ends:
                page.whole = False
                return
            taller = self._view.looks([(at, HEIGHT + _TALLER) for at in widths], unhides=unhides)
            larger: list[Boxes] = [{}] * len(widths)
            if self._browser.set_font(_FONT):
                larger = self._view.looks([(at, HEIGHT) for at in widths], unhides=unhides)
                self._browser.set_font(16)
            for at, tall, large in zip(widths, taller, larger, strict=True):
                for place in wanted[at]:
                    was = page.boxes[place][at]
                    font, height = _change(was, large.get(place)), _change(was, tall.get(place))
                    page.pulls.setdefault(place, {})[at] = Pull(font / (_FONT - 16), height / _TALLER)


def _change(was: ShownBox, now: ShownBox | None) -> float:
    return now.width - was.width if now and now.shown and was.shown else 0.0
