"""What a plan says, checked and ready to compute with. `sarvel.plan` makes these from sarvel.toml."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeAlias

from sarvel.core.crop.place import Box
from sarvel.core.css.media import Media
from sarvel.core.layout.shown import Shown

Load: TypeAlias = Literal["first", "later"]
Finish: TypeAlias = Literal["light", "standard", "fine"]


@dataclass(frozen=True)
class CutRule:
    """How a slot crops its images on some devices.

    Attributes:
        name: what it is called in file names and messages; "" if it is the only one.
        media: the devices it is for, of those that no earlier rule is for.
        ratio: width divided by height; None keeps the master's own.
    """

    name: str
    media: Media
    ratio: float | None


@dataclass(frozen=True)
class Slot:
    """A place in the page where images are shown.

    Attributes:
        name: what pages call it.
        shown: how wide it shows an image.
        cuts: how it crops, in the order tried; the last has no condition.
        load: seen at once, or later.
        formats: names of formats, best first.
        finish: how much detail to keep.
        densities: sharp up to the largest of these, each > 0.
        rungs: at most so many widths a cut.
        excess: as few widths as keep the expected excess within this share; None counts rungs instead.
        widths: widths by hand, px; None computes them.
        widest: no rendition is wider, px.
    """

    name: str
    shown: Shown
    cuts: tuple[CutRule, ...]
    load: Load
    formats: tuple[str, ...]
    finish: Finish
    densities: tuple[float, ...]
    rungs: int
    excess: float | None
    widths: tuple[int, ...] | None
    widest: int


@dataclass(frozen=True)
class Master:
    """What the plan says of one master.

    Attributes:
        alt: what the picture shows, in words; "" for decoration; None where only the page says it.
        subject: the part that must stay in view, in fractions; None for the whole picture.
    """

    alt: str | None = None
    subject: Box | None = None
