"""The facts of a report: what a site came to, as plain data that every form of the report is written from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from sarvel.notices import Notice

Edges = tuple[float, float, float, float]  # left, top, right, bottom, in fractions


@dataclass(frozen=True)
class FileFacts:
    """A rendition.

    Attributes:
        width: px across.
        height: px down.
        weight: bytes.
        quality: how it is encoded: a number, "lossless", or "" where that is not known.
        likeness: to its master, 0 to 100; None where it was not measured.
    """

    name: str
    address: str
    format: str
    width: int
    height: int
    weight: int
    quality: str
    likeness: float | None


@dataclass(frozen=True)
class CropFacts:
    """A crop and its files.

    Attributes:
        name: of the crop; "" for the only one.
        media: its condition; "" for none.
        width: of its box, px of the master.
        subjects: the parts to keep in view, in fractions of the crop.
        lost: the share of the subject that it loses, 0 to 1.
        guessed: how sure the subject is, if it was found in the pixels, 0 to 1; None if the plan names it.
        sizes: its `sizes`; "" where the shown width is constant.
        widths: of its ladder, px.
        excess: expected bytes over those of files that fit everyone exactly, as a share.
        one_for_all: the same, if only the widest file were there.
        soft: the share of the pixels across that someone lacks in the worst case.
        waste: how many times the pixels across someone gets in the worst case.
        files: its renditions, best format first, each narrowest first.
        thumb: the narrowest file that shows it well, as an address that holds it.
        viewports: the widths of viewports that meet it: where each range starts, and where it ends, CSS px.
    """

    name: str
    media: str
    width: int
    height: int
    subjects: tuple[Edges, ...]
    lost: float
    guessed: float | None
    sizes: str
    widths: tuple[int, ...]
    excess: float
    one_for_all: float
    soft: float
    softest: str
    waste: float
    wasteful: str
    files: tuple[FileFacts, ...]
    thumb: str
    viewports: tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Fetch:
    """The file that a device fetches of a picture.

    Attributes:
        weight: bytes.
        saving: the share of the master's bytes that it is spared.
        by_format: bytes of the file that it would fetch in each format.
    """

    file: str
    weight: int
    saving: float
    by_format: Mapping[str, int]


@dataclass(frozen=True)
class Stair:
    """A picture over the width of the viewport, at one density.

    Attributes:
        viewports: CSS px, ascending.
        needed: px across that the device needs, for each.
        got: px across of the file that it fetches, for each.
    """

    density: float
    viewports: tuple[int, ...]
    needed: tuple[int, ...]
    got: tuple[int, ...]


@dataclass(frozen=True)
class Window:
    """A piece of a picture at its own pixels, in several makings.

    Attributes:
        width: px.
        height: px.
        crop: the name of the crop that it is of.
        rung: the width of the files, px.
        views: the piece of the master, and as each format makes it that differs: an address that holds it, by name.
        maps: where each of these differs from the master, by name.
        differences: mean difference within the piece, in 255ths, by name.
    """

    width: int
    height: int
    crop: str
    rung: int
    views: Mapping[str, str]
    maps: Mapping[str, str]
    differences: Mapping[str, float]


@dataclass(frozen=True)
class PictureFacts:
    """A master in a slot.

    Attributes:
        master_weight: bytes of the master.
        alt: its words, if the plan has any.
        load: "first" or "later".
        stairs: needed and delivered pixels, for each density.
        markup: of the picture alone.
        densest: the density up to which it is made sharp.
        shown: the viewport widths at which its shown width bends, and how wide it is there, both CSS px.
        windows: where it differs most from its master.
    """

    slot: str
    master: str
    master_weight: int
    alt: str
    pages: tuple[str, ...]
    load: str
    crops: tuple[CropFacts, ...]
    fetched: Mapping[str, Fetch]
    stairs: tuple[Stair, ...]
    markup: str
    remarks: tuple[str, ...]
    densest: float
    shown: tuple[tuple[int, float], ...]
    windows: tuple[Window, ...] = ()

    @property
    def key(self) -> str:
        """Its identity, in one report and the next."""
        return f"{self.slot} {self.master}"

    @property
    def weight(self) -> int:
        """Bytes of all its files, each once."""
        return sum({one.name: one.weight for crop in self.crops for one in crop.files}.values())

    @property
    def files(self) -> int:
        """How many files it has."""
        return len({one.name for crop in self.crops for one in crop.files})

    @property
    def likeness(self) -> float | None:
        """The least likeness of its files that was measured."""
        known = [one.likeness for crop in self.crops for one in crop.files if one.likeness is not None]
        return min(known, default=None)


@dataclass(frozen=True)
class ShownWidths:
    """An image of a page on one device.

    Attributes:
        file: the name of the file that is fetched; "" for none.
        width: px across; None where that is not known.
        weight: bytes; None where that is not known.
        verdict: how it fits, in words.
    """

    number: int
    file: str
    width: int | None
    weight: int | None
    verdict: str


@dataclass(frozen=True)
class PageFacts:
    """A page.

    Attributes:
        before: bytes of the masters that it would show, by device.
        now: bytes of the files that it fetches in their place, by device.
        shown: all its images on devices of the audience, by device.
    """

    name: str
    address: str
    images: int
    before: Mapping[str, int]
    now: Mapping[str, int]
    shown: Mapping[str, tuple[ShownWidths, ...]]

    def weight_on(self, device: str) -> int:
        """Bytes of all its images on a device, each file once."""
        return sum({one.file: one.weight or 0 for one in self.shown.get(device, ())}.values())


@dataclass(frozen=True)
class Budget:
    """What the images of a page may weigh on a device, and do.

    Attributes:
        allowed: bytes.
        weight: bytes.
    """

    page: str
    device: str
    allowed: int
    weight: int


@dataclass(frozen=True)
class Report:
    """All of it.

    Attributes:
        pages: in the order of the plan.
        pictures: in the order that pages ask for them.
        masters_weight: bytes that all pages would fetch with masters, each once a page.
        fetched: bytes that all pages fetch, by device.
        tasks: open points, worst first.
        measured: what `measure` found, in words, a slot each.
        confirmed: what `confirm` found, in words; empty where it was not given.
        devices: of the audience, as tables show them.
    """

    title: str
    pages: tuple[PageFacts, ...]
    pictures: tuple[PictureFacts, ...]
    masters_weight: int
    fetched: Mapping[str, int]
    budgets: tuple[Budget, ...]
    tasks: tuple[Notice, ...]
    findings: tuple[Notice, ...]
    measured: tuple[str, ...]
    confirmed: tuple[str, ...]
    devices: tuple[str, ...]
    since: Mapping[str, object] = field(default_factory=dict)
