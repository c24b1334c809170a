"""Ways to see a page on many viewports: in a frame, in a window, or opened again on each; the quickest that is true.

A device opens a page on the viewport that it has. So a page is opened on two: the first way counts that shows the same there.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Protocol, TypeAlias

from sarvel.browser.look import PATIENT, PLACE, Boxes, Viewport, look, looks_in_frame, media_of, script, steady
from sarvel.browser.session import BrowserGoneError, Session
from sarvel.errors import PageError

HEIGHT = 900
"""Height of the viewports, CSS px: between that of phones and of desktops."""

PHONE, DESKTOP = (360, 740), (1440, 900)
"""Viewports whose first screens are looked at, CSS px."""

_TRIED = ((360, HEIGHT), DESKTOP)  # the page is left at the last
_SAME = 0.5  # CSS px


class View(Protocol):
    """A page that is open."""

    def looks(self, viewports: Sequence[Viewport], *, unhides: bool = False) -> list[Boxes]:
        """All boxes on each viewport; raises what `Session.run` does."""


@dataclass(frozen=True)
class _Framed:
    """A page in a frame: its size changes in one script, which need not wait for the screen."""

    browser: Session
    frames: int

    def looks(self, viewports: Sequence[Viewport], *, unhides: bool = False) -> list[Boxes]:
        return looks_in_frame(self.browser, viewports, frames=self.frames, unhides=unhides)


@dataclass(frozen=True)
class _Resized:
    """A page in a window whose viewport changes."""

    browser: Session

    def looks(self, viewports: Sequence[Viewport], *, unhides: bool = False) -> list[Boxes]:
        found = []
        for viewport in viewports:
            self.browser.set_viewport(*viewport)
            found.append(look(self.browser, patient=True, unhides=unhides))
        return found


@dataclass(frozen=True)
class _OpenedAgain:
    """A page that scripts lay out by what the viewport was when it came."""

    browser: Session
    path: str
    named: bool

    def looks(self, viewports: Sequence[Viewport], *, unhides: bool = False) -> list[Boxes]:
        found = []
        for viewport in viewports:
            self.browser.set_viewport(*viewport)
            self.browser.open(self.path)
            steady(self.browser)
            _name(self.browser, named=self.named)
            found.append(look(self.browser, patient=True, unhides=unhides))
        return found


Names: TypeAlias = list[tuple[str, str]]
"""Of each image of a page, the address of its file, and its classes."""


@dataclass(frozen=True)
class Opened:
    """An open page, and facts from opening it.

    Attributes:
        media: the media queries of its stylesheets, as far as it may read them.
        first: by place, the share that each box fills of the first screen of a phone and of a desktop, 0 to 1.
        named: empty unless that was asked for.
    """

    view: View
    media: Sequence[str]
    first: Mapping[int, tuple[float, float]]
    named: Names


def opened(browser: Session, path: str, *, named: bool) -> Opened:
    """Opens a page, and finds the way to see it.

    Args:
        path: of the page, whose tags are marked.
        named: whether to number its images here instead, and to tell their files.

    Raises:
        PageError: it does not come or does not answer.
        BrowserGoneError: the browser ended.
    """
    again = _OpenedAgain(browser, path, named)
    seen = again.looks(_TRIED)
    media = media_of(browser)
    names = _name(browser, named=named)
    view = _framed(browser, path, seen, named=named) or _resized(browser, again, seen) or again
    phone, desktop = view.looks([PHONE, DESKTOP])
    return Opened(
        view, media, {place: (_share(phone, place), _share(desktop, place)) for place in {*phone, *desktop}}, names
    )


def _share(boxes: Boxes, place: int) -> float:
    return boxes[place].first if place in boxes else 0.0


def _framed(browser: Session, path: str, wanted: Sequence[Boxes], *, named: bool) -> View | None:
    """The page in a frame, if it is there as it is in a window; else None."""
    try:
        browser.set_viewport(*DESKTOP)
        if not browser.open_in_frame(path, script("frame"), *DESKTOP):
            return None
        steady(browser)
        _name(browser, named=named)
        for frames in (0, PATIENT):
            view = _Framed(browser, frames)
            if _same(wanted, view.looks(_TRIED)):
                return view
    except (PageError, BrowserGoneError):  # it refuses a frame; if the browser is gone, the next call raises that again
        pass
    return None


def _resized(browser: Session, again: View, wanted: Sequence[Boxes]) -> View | None:
    """The page in its window, if that shows the same; else None."""
    view = _Resized(browser)
    for _ in range(2):  # on a busy machine something may be late once
        again.looks(_TRIED[-1:])
        if _same(wanted, view.looks(_TRIED)):
            return view
        wanted = again.looks(_TRIED)
    return None


def _name(browser: Session, *, named: bool) -> Names:
    found = browser.run(script("named"), PLACE) if named else []
    return [(str(file), str(classes)) for file, classes in found]


def _same(some: Sequence[Boxes], others: Sequence[Boxes]) -> bool:
    """Tells whether the boxes on some viewports are the same, as far as there are looks at both."""
    return all(
        one.keys() == other.keys()
        and all(
            box.shown == other[place].shown and abs(box.width - other[place].width) <= _SAME
            for place, box in one.items()
        )
        for one, other in zip(some, others, strict=False)
    )
