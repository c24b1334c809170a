"""The boxes of a page over all viewports: looked at until every bend is known to the pixel, within bounds of time."""

from __future__ import annotations

import time
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

from sarvel.browser.look import PLACE, ShownBox, look, media_of, script, steady
from sarvel.browser.session import Session
from sarvel.core.layout.bends import Widths, closer_looks, first_looks
from sarvel.core.layout.fitted import Pull, middles
from sarvel.core.survey.breakpoints import breakpoints_of

HEIGHT = 900
"""Height of the viewports, CSS px: between that of phones and of desktops."""

PHONE, DESKTOP = (360, 740), (1440, 900)
"""Viewports whose first screens are looked at, CSS px."""

_FONT = 18  # CSS px: a little more than every browser begins with, so that no media query in em moves far
_TALLER = 100  # CSS px
_AGAIN = (360, 768, 1440)  # viewports that are looked at once more, with more patience
_MOST = 420  # looks at a page; a layout that bends more often is not made of lines
_LONGEST = 90.0  # seconds for a page
_SAME = 0.5  # CSS px


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
    named: list[tuple[str, str]] = field(default_factory=list)

    def widths(self, place: int) -> Widths:
        """The measured widths of a box, CSS px, by viewport width; None where it is not shown."""
        return {at: box.width if box.shown else None for at, box in self.boxes.get(place, {}).items()}


def measure(browser: Session, path: str, *, named: bool = False) -> PageBoxes:
    """Measures a page.

    Args:
        path: of the page, whose tags are marked.
        named: whether to number its images here instead, and to tell their files.

    Raises:
        PageError: it does not come or does not answer.
        BrowserGoneError: the browser ended.
    """
    return _Measuring(browser, path, named=named).all()


class _Measuring:
    """One page being measured."""

    def __init__(self, browser: Session, path: str, *, named: bool) -> None:
        self._browser, self._path, self._named = browser, path, named
        self._page = PageBoxes()
        self._reloads = self._settles = self._unhides = False
        self._ends = time.monotonic() + _LONGEST

    def all(self) -> PageBoxes:
        self._browser.set_viewport(*DESKTOP)
        self._open()
        self._page.breakpoints = sorted(breakpoints_of(media_of(self._browser)))
        self._learn_patience()
        self._look_at(first_looks(self._page.breakpoints))
        self._look_closer()
        self._look_behind()
        self._look_for_pulls()
        return self._page

    def _open(self) -> None:
        self._browser.open(self._path)
        steady(self._browser)
        if self._named:
            self._page.named = [
                (str(file), str(classes)) for file, classes in self._browser.run(script("named"), PLACE)
            ]

    def _learn_patience(self) -> None:
        """Finds out whether scripts lay the page out by what the viewport was when it came, or is now."""
        quick = self._tried()
        self._settles = True
        patient = self._tried()
        self._settles = _differ(quick, patient)
        self._reloads = self._depends_on_opening(patient)
        firsts = [self._seen(*viewport) for viewport in (PHONE, DESKTOP)]
        for place in firsts[0].keys() | firsts[1].keys():
            shares = [boxes[place].first if place in boxes else 0.0 for boxes in firsts]
            self._page.first[place] = (shares[0], shares[1])

    def _tried(self) -> dict[int, Mapping[int, ShownBox]]:
        return {at: self._seen(at, HEIGHT) for at in _AGAIN}

    def _depends_on_opening(self, patient: Mapping[int, Mapping[int, ShownBox]]) -> bool:
        """Tells whether a page has other boxes when it is opened again, twice: on a busy machine something may be late once."""
        for _ in range(2):
            self._reloads = True
            fresh = self._tried()
            self._reloads = False
            if not _differ(patient, fresh):
                return False
            patient = self._tried()
        return True

    def _seen(self, width: int, height: int) -> Mapping[int, ShownBox]:
        self._browser.set_viewport(width, height)
        if self._reloads:
            self._open()
        return look(self._browser, patient=self._settles, unhides=self._unhides)[1]

    def _look_at(self, widths: Iterable[int]) -> None:
        for width in widths:
            if time.monotonic() > self._ends:
                self._page.whole = False
                return
            for place, box in self._seen(width, HEIGHT).items():
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
        wanted: dict[int, set[int]] = {}
        for place in page.boxes:
            for at in middles(page.widths(place)):
                wanted.setdefault(at, set()).add(place)
        for at, places in sorted(wanted.items()):
            if time.monotonic() > self._ends:
                page.whole = False
                return
            self._unhides = bool(places & page.unhidden)
            taller = self._seen(at, HEIGHT + _TALLER)
            larger: Mapping[int, ShownBox] = {}
            if self._browser.set_font(_FONT):
                larger = self._seen(at, HEIGHT)
                self._browser.set_font(16)
            for place in places:
                was = page.boxes[place][at]
                pull = Pull(_change(was, larger.get(place)) / (_FONT - 16), _change(was, taller.get(place)) / _TALLER)
                page.pulls.setdefault(place, {})[at] = pull
        self._unhides = False


def _change(was: ShownBox, now: ShownBox | None) -> float:
    return now.width - was.width if now and now.shown and was.shown else 0.0


def _differ(some: Mapping[int, Mapping[int, ShownBox]], others: Mapping[int, Mapping[int, ShownBox]]) -> bool:
    """Tells whether a box differs between two looks at the same viewports."""
    return any(
        place not in others[at]
        or box.shown != others[at][place].shown
        or abs(box.width - others[at][place].width) > _SAME
        for at, boxes in some.items()
        for place, box in boxes.items()
    )
