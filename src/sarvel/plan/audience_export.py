"""A table of sizes and visits as analytics export it: docs/plan.md, "The audience", tells which columns are known."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from sarvel.core.css.device import Device
from sarvel.core.layout.audience import Visits
from sarvel.plan.messages import shortened

# Names of columns in lower case, letters alone; the first that is there counts.
_WINDOWS = ("viewport", "viewportsize", "windowsize", "browsersize", "size")
_SCREENS = ("screen", "screensize", "screenresolution", "resolution")
_VISITS = ("share", "visits", "sessions", "visitors", "users", "activeusers", "views", "pageviews", "hits", "count")
_DENSITIES = ("density", "pixelratio", "devicepixelratio")

_SIZE = re.compile(r"(\d{2,5})\s*[x×]\s*(\d{2,5})", re.IGNORECASE)
_NO_SIZE = re.compile(r"\(.*\)|(?:grand )?totals?|other|unknown|", re.IGNORECASE)  # sums, and visits of no known size

# Where no column tells densities, they go by shape: phones have shorter sides than _PHONE CSS px, tablets are less than _WIDE
# times as wide as high. An assumption of ours.
_PHONE, _WIDE = 500, 1.5

_DESK = 1000  # CSS px across: windows on wider screens are often smaller than the screen
_WINDOW = 0.75  # of the width of such a screen that a window takes at least: our assumption


@dataclass(frozen=True)
class Export:
    """The columns of an export, by their places.

    Attributes:
        size: sizes such as 390x844.
        visits: numbers of visits, or shares.
        density: densities; or None.
        screens: whether sizes are of screens, not of windows.
    """

    size: int
    visits: int
    density: int | None
    screens: bool

    def read(self, cells: Sequence[str]) -> Iterator[Visits]:
        """The visits that a row describes; none if it describes no known size.

        Raises:
            ValueError: a cell holds neither a size nor a number; the message has the cure.
        """
        text = cells[self.size] if self.size < len(cells) else ""
        if _NO_SIZE.fullmatch(text):
            return
        size = _SIZE.fullmatch(text)
        if not size or not int(size[1]) or not int(size[2]):
            raise ValueError(f"got '{shortened(text)}' as a size; write one such as 390x844, or take the line away")
        share = _number(cells, self.visits, "visits")
        if not share:
            return
        width, height = int(size[1]), int(size[2])
        density = _number(cells, self.density, "density") if self.density is not None else 0.0
        device = Device(width, height, min(density, 20) or _usual_density(width, height))
        if self.screens and width > _DESK:
            least = round(width * _WINDOW)
            yield Visits(Device(least, height, device.dpr), share, f"window on {text}", float(width))
        else:
            yield Visits(device, share, text)


def export_of(names: Sequence[str]) -> Export | None:
    """The columns of an export by their names; None if it is not one."""
    plain = [re.sub(r"[^a-z]", "", name.lower()) for name in names]

    def place(known: Sequence[str]) -> int | None:
        return next((plain.index(name) for name in known if name in plain), None)

    windows, screens, visits = place(_WINDOWS), place(_SCREENS), place(_VISITS)
    size = windows if windows is not None else screens
    if size is None or visits is None:
        return None
    return Export(size, visits, place(_DENSITIES), windows is None)


def _number(cells: Sequence[str], place: int, name: str) -> float:
    """A number that may have its thousands parted, or a percent sign."""
    text = cells[place] if place < len(cells) else ""
    plain = re.sub(r"(?<=\d)[,. '\u00a0\u202f](?=\d{3}(?:\D|$))", "", text).rstrip("% ").replace(",", ".")
    try:
        number = float(plain)
    except ValueError:
        number = -1.0
    if not 0 <= number < 1e15:
        raise ValueError(f"{name}: got '{shortened(text)}'; write a number")
    return number


def _usual_density(width: int, height: int) -> float:
    if min(width, height) < _PHONE:
        return 3.0
    return 2.0 if width < _WIDE * height else 1.0
