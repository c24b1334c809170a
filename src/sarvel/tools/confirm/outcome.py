"""What a real browser showed of a page before and after, and whether that is what the plan asks for."""

from __future__ import annotations

import urllib.parse
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TypeAlias

from sarvel.browser.page_state import PageState
from sarvel.core.css.device import Device
from sarvel.core.edition.compose import Picture
from sarvel.core.html.dialect import HTML, Dialect
from sarvel.core.html.document import read_document
from sarvel.core.html.source_selection import pick
from sarvel.core.layout.moved import Change
from sarvel.notices import Notice

GROWN = 2.0
"""CSS px of height that rounding may add to a page."""

SHIFT = 0.05
"""Layout shift that no one sees."""

_NO_MATTER = 8  # CSS px by which a width in the markup may always be wrong
_SAME_SHAPE = 0.01  # share by which the ratio of a crop may differ from its master's and be the same
_SHAPES = "/.shapes/"  # where images are served that have a shape and nothing else


@dataclass
class Confirmed:
    """A page on a device, before and after.

    Attributes:
        changes: boxes that the plan does not ask to be elsewhere or of another size; None if elements differ.
        grown: change of the page's height that the plan does not ask for, CSS px.
        broken: files whose images do not load any more.
        errors: what the console says that it did not say before.
        strayed: images that fetched another file than was predicted: the file, and the one predicted.
        fetched: how many images of the plan fetched the predicted file.
        shift: how much the layout shifted before, with the plan's crops.
        unheeded: masters of woven images whose `src` a script sets, which has no effect on an image with `srcset`.
        largest: when the largest image was there on the slow network, ms, before and after; None where that is not known.
    """

    page: Path
    device: Device
    before: PageState
    after: PageState
    changes: list[Change] | None
    grown: float
    broken: list[str]
    errors: list[str]
    strayed: list[tuple[str, str]]
    fetched: int
    shift: float = 0.0
    largest: tuple[float | None, float | None] = (None, None)
    unheeded: Sequence[str] = ()

    @property
    def shifts(self) -> bool:
        """Tells whether the layout shifts more than it did."""
        return self.after.shift > self.shift + SHIFT

    @property
    def misfits(self) -> list[tuple[str, int, int]]:
        """Woven images whose markup says another width than is shown: master, both widths in CSS px."""
        return [
            (one.named, one.natural, round(one.width))
            for one in self.after.images
            if one.woven and one.natural and one.width and not _is_near(one.natural, one.width)
        ]

    @property
    def is_well(self) -> bool:
        """Tells whether nothing is otherwise than the plan asks for."""
        same = self.changes is not None and not self.changes and abs(self.grown) <= GROWN
        return same and not (self.broken or self.errors or self.strayed or self.shifts or self.unheeded or self.misfits)


def _is_near(said: float, shown: float) -> bool:
    """Tells whether a width that markup says fits the one shown, which may be a tenth more, or two thirds of it."""
    return abs(said - shown) <= _NO_MATTER or said / 1.5 <= shown <= said * 1.1


@dataclass
class ConfirmedSite:
    """The result for all pages.

    Attributes:
        pages: by page and device, in order.
        faults: why others could not be looked at, a notice each.
        notes: what the user may leave so.
    """

    pages: list[Confirmed] = field(default_factory=list)
    faults: list[Notice] = field(default_factory=list)
    notes: list[Notice] = field(default_factory=list)


def shape_of(picture: Picture, device: Device) -> tuple[str, bytes] | None:
    """An image of the shape that a picture's crop has on a device, as path and SVG; None if the plan asks for no other shape."""
    crop = picture.crop_on(device)
    ratio = crop.box.width / crop.box.height
    if abs(ratio * picture.master.height / picture.master.width - 1) <= _SAME_SHAPE:
        return None
    made = picture.fetched(device)  # whose sides are whole pixels, and so its ratio is not quite the crop's
    times = max(1, round(crop.box.width / made.width))
    width, height = times * made.width, times * made.height
    drawn = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" viewBox="0 0 {width} {height}"/>'
    )
    return f"{_SHAPES}{width}x{height}.svg", drawn.encode()


def strayed(
    text: str, at: str, after: PageState, device: Device, *, origin: str = "", dialect: Dialect = HTML
) -> tuple[list[tuple[str, str]], int]:
    """Images that fetched another file than `pick` predicts; and how many fetched the right one.

    Args:
        origin: the host that pictures are really at; "" for the page's own.
    """
    predicted: dict[str, list[str]] = {}
    for image in read_document(text, dialect).images:
        if src := image.element.attributes.get("src"):
            picked = pick(image.element, device).url.removeprefix(origin)
            predicted.setdefault(src, []).append(urllib.parse.urljoin(at, picked))
    others, right = [], 0
    for one in after.images:
        if one.woven and one.url and one.src in predicted:
            wanted = predicted[one.src]
            if one.url in wanted:
                right += 1
            else:
                others.append((one.url.rpartition("/")[2], wanted[0].rpartition("/")[2]))
    return others, right


Times: TypeAlias = tuple[float | None, float | None]
"""When the largest image was there before and after, ms; None where that is not known."""


def fair_times(measured: Callable[[], Times]) -> Times:
    """When the largest image was there: measured once more where it comes later, because a busy machine delays either."""
    times = measured()
    if None in times or (times[1] or 0) <= (times[0] or 0):
        return times
    before, after = zip(times, measured(), strict=True)
    return min(filter(None, before), default=None), min(filter(None, after), default=None)


def least_shifting(
    before: PageState, after: PageState, again: Callable[[], tuple[PageState, PageState]]
) -> tuple[float, PageState]:
    """How much the layout shifted before, and the state after: looked at once more where it shifts more than it did.

    Late elements may shift once, and another time not.
    """
    if after.shift <= before.shift + SHIFT:
        return before.shift, after
    old, new = again()
    return max(before.shift, old.shift), min(after, new, key=lambda one: one.shift)
