"""The boxes of a page's images and backgrounds, in a browser at one viewport."""

from __future__ import annotations

import functools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from importlib import resources
from typing import Any, Literal, TypeAlias

from sarvel.browser.session import Session

PLACE = "data-sarvel-place"
"""Name of an attribute that numbers the tags of a page; only the served copy has it."""

PATIENT = 6
"""Frames to wait: scripts hear of a new viewport in the frame after it, and may lay out once more in the next ones (HTML, section
8.1.7.3)."""

_AT_ONCE = 40  # looks of one script, so that it ends in time
_WAIT = 6000  # ms that images, fonts and the rest of a page may take to come


@functools.cache
def script(name: str) -> str:
    """One of our scripts for pages."""
    return resources.files("sarvel.browser").joinpath("scripts", f"{name}.js").read_text("utf-8")


@dataclass(frozen=True)
class ShownBox:
    """The box of an image or a background at one viewport.

    Attributes:
        width: of its content, of a background with its padding, CSS px.
        shown: whether it has a box at all.
        first: the share of the first screen that it fills, 0 to 1.
        fit: its `object-fit`, or `background-size`.
        position: its `object-position`, or `background-position`.
        natural: width and height of the image that is in it, CSS px; 0 where that is not known.
        listed: whether a list names its file.
    """

    width: float
    height: float
    shown: bool
    first: float
    fit: str
    position: str
    natural: tuple[int, int]
    listed: bool


def begin_with(browser: Session, *names: str) -> None:
    """Runs scripts of ours before anything of every page that is opened from now on, where the browser can; calm always."""
    browser.command("Page.enable")
    for name in ("calm", *names):
        browser.command("Page.addScriptToEvaluateOnNewDocument", source=script(name))


def steady(browser: Session, images: Literal["all", "scrolled", "first"] = "all") -> None:
    """Waits until a page that was just opened is there, or a while; ends what moves.

    Args:
        images: which to wait for: all, also late ones; images that load as one scrolls down; or those of the first screen.
    """
    browser.run_until_done(script("steady"), _WAIT, images)


Viewport: TypeAlias = tuple[int, int]
"""Width and height, CSS px."""

Boxes: TypeAlias = Mapping[int, ShownBox]
"""Boxes by their place; of several at one place, the first shown."""


def look(browser: Session, *, patient: bool = False, unhides: bool = False) -> Boxes:
    """All boxes in the viewport. Waits until scripts have heard of a new one.

    Args:
        browser: at a page whose tags are marked.
        patient: whether to wait some frames longer.
        unhides: whether to look at hidden elements too, such as the other slides of a carousel.
    """
    (found,) = browser.run_until_done(script("look"), PLACE, unhides, PATIENT if patient else 1, [None])
    return _boxes(found)


def looks_in_frame(browser: Session, viewports: Sequence[Viewport], *, frames: int, unhides: bool) -> list[Boxes]:
    """All boxes on each of some viewports, of a page that was opened in a frame.

    Args:
        frames: how many frames of the screen to wait for scripts to hear of each.
        unhides: as `look`.
    """
    found = []
    for at in range(0, len(viewports), _AT_ONCE):
        some = viewports[at : at + _AT_ONCE]
        found += browser.run_until_done(script("look"), PLACE, unhides, frames, some)
    return [_boxes(one) for one in found]


def _boxes(found: Sequence[Sequence[Any]]) -> Boxes:
    boxes: dict[int, ShownBox] = {}
    for place, *values in found:
        box = _box(values)
        if place not in boxes or (box.shown and not boxes[place].shown):
            boxes[place] = box
    return boxes


def _box(values: list[Any]) -> ShownBox:
    width, height, shown, first, fit, position, natural_width, natural_height, listed = values
    natural = (int(natural_width), int(natural_height))
    return ShownBox(
        float(width), float(height), bool(shown), float(first), str(fit), str(position), natural, bool(listed)
    )


def media_of(browser: Session) -> list[str]:
    """The media queries of a page's stylesheets, as far as it may read them."""
    return [str(one) for one in browser.run(script("media"))]
