"""The model: what a plan says, checked and ready to compute with. `sarvel.plan` makes it from sarvel.toml."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Literal, TypeAlias

from sarvel.core.crop.place import CENTRE, Box
from sarvel.core.crop.turn import Turn
from sarvel.core.css.media import Media
from sarvel.core.html.mentions import Use
from sarvel.core.html.selector import Selector
from sarvel.core.layout.shown import Shown

Loading: TypeAlias = Literal["eager", "lazy"]
Reserve: TypeAlias = Literal["", "ratio", "size", "none"]
ONLY_CROP = "all"
"""The name of a slot's only crop, in messages and in the plan."""

FINISHES: Mapping[str, float] = MappingProxyType({"light": 91.0, "standard": 93.0, "fine": 95.0})
"""The likeness (`sarvel.core.pixels.likeness`) that each named finish keeps. On the demo's photographs 93 is what WebP
reaches at about 79, JPEG at 67 and AVIF at 48; a step of 2 is about a fifth of the bytes."""

DialectName: TypeAlias = Literal[
    "html", "php", "xhtml", "calls", "statements", "elements", "sections", "braces", "expressions", "script", "markdown",
    "markdown-script", "json", "css", "scss",
]  # fmt: skip
"""Names of the kinds of templates, as a plan says them; `core.html.dialect` reads each."""

FormatName: TypeAlias = Literal["jxl", "avif", "webp", "jpeg", "png"]
"""Names of formats that can be written, as a plan says them; `encode.codecs` writes each."""

ONE_FILE: frozenset[Use] = frozenset({"link", "share", "single", "style"})
"""Uses whose places name one file, so that no browser has a choice."""

Effort: TypeAlias = Literal["quick", "normal", "thorough"]
EFFORTS: tuple[Effort, ...] = ("quick", "normal", "thorough")
"""How long encoders try, from the shortest: the same picture in more bytes or in fewer."""

Gamut: TypeAlias = Literal["srgb", "wide"]
Metadata: TypeAlias = Literal["credit"]


@dataclass(frozen=True)
class Finish:
    """The finish of a slot's files.

    Attributes:
        name: as written in the plan: "standard", or a number.
        likeness: how similar renditions look to their master at the same size, 0 to 100.
        quality: encoder numbers by hand, 0 to 100, by format; they win over the likeness.
        gamut: "wide" keeps colors beyond sRGB where a master has them and the format can state so.
        metadata: what of a master's metadata its files keep.
        interlace: whether PNG files show roughly before they are whole.
    """

    name: str = "standard"
    likeness: float = FINISHES["standard"]
    quality: Mapping[str, int] = field(default_factory=dict)
    gamut: Gamut = "srgb"
    metadata: tuple[Metadata, ...] = ()
    interlace: bool = False


@dataclass(frozen=True)
class Treatment:
    """The treatment of a crop's pixels, in this order: rotate, mirror, crop or pad, matte, grey.

    Attributes:
        rotate: of the master, before it is cropped.
        mirror: left to right, after the rotation.
        pad: color of the area added to reach the ratio, "#rrggbb"; "" crops instead.
        matte: color that transparent masters are laid on, "#rrggbb"; "" keeps them transparent.
        grey: whether colors are taken out.
    """

    rotate: Turn = ""
    mirror: bool = False
    pad: str = ""
    matte: str = ""
    grey: bool = False


@dataclass(frozen=True)
class CropRule:
    """A crop that a slot shows on some devices.

    Attributes:
        name: in file names and messages; "" if it is the only one.
        media: the devices it is for, after earlier rules.
        ratio: width divided by height; None keeps the master's own.
        zoom: 1 for the largest crop of the ratio; more comes closer to the subject.
        subject_at: where in the crop the subject's centre should be, in fractions of the crop.
    """

    name: str
    media: Media
    ratio: float | None
    zoom: float = 1.0
    subject_at: tuple[float, float] = CENTRE
    treatment: Treatment = Treatment()


@dataclass(frozen=True)
class CropOverride:
    """Settings of one master for one crop of one slot; None leaves what the slot says.

    Attributes:
        box: a crop set by hand, in fractions of the master; wins over the computed one.
        master: key of another master that is shown instead.
        ratio: like a CropRule; "native" is 0.
    """

    box: Box | None = None
    master: str | None = None
    ratio: float | None = None
    zoom: float | None = None
    subject_at: tuple[float, float] | None = None


@dataclass(frozen=True)
class Measurement:
    """A record of when and where a browser measured a slot's shown width.

    Attributes:
        on: the day, as ISO 8601 writes it.
        pages: the pages, seen from the plan's folder, and the state of each with its stylesheets.
    """

    on: str
    pages: Mapping[str, str]


PATTERN = "{stem}-{slot}-{crop}-{width}.{digest}.{ext}"
"""The pattern of file names, where the plan does not say otherwise."""


@dataclass(frozen=True)
class Slot:
    """A place in the page where images are shown.

    Attributes:
        shown: how wide it shows an image.
        crops: how it crops, in the order tried; the last has no condition.
        loading: "eager" for images that are seen at once, else "lazy".
        opens_eager: whether images that a page opens with are eager nevertheless.
        formats: names of formats, best first.
        densities: sharp up to the largest of these, each > 0.
        rungs: at most so many widths a crop.
        excess: as few widths as keep the expected excess within this share; None counts rungs instead.
        soft: the share of the px across that visitors may lack whom no table lists, 0 to less than 1.
        widths: widths by hand, px; None computes them.
        widest: no rendition is wider, px.
        placeholder: "none", "tint", "soft", "outline", or a color "#rrggbb".
        name_files: the pattern that files are called by.
        masters: globs of masters that are made though no page names them.
        use: what its images are for.
        selectors: which images of pages it is for that name no slot.
        links: the slot that links around its images are for; "" for none.
        reserve: how room is kept for an image until it has loaded: by its ratio in a style, by width and height, or not at all;
            "" follows the shapes of its crops.
        auto_sizes: whether the stylesheet gives its images a width of their own, so that browsers may measure it.
        measured: when and where its shown width was measured; None if it was not.
    """

    name: str
    shown: Shown
    crops: tuple[CropRule, ...]
    loading: Loading
    formats: tuple[str, ...]
    finish: Finish
    densities: tuple[float, ...]
    rungs: int
    excess: float | None
    soft: float
    widths: tuple[int, ...] | None
    widest: int
    placeholder: str = "none"
    name_files: str = PATTERN
    masters: tuple[str, ...] = ()
    use: Use = "picture"
    selectors: tuple[Selector, ...] = ()
    links: str = ""
    reserve: Reserve = ""
    auto_sizes: bool = False
    opens_eager: bool = False
    measured: Measurement | None = None
    effort: Effort = "normal"


@dataclass(frozen=True)
class Master:
    """The plan's words about one master.

    Attributes:
        alt: the alt text; "" for decoration; None if only the page has it.
        subjects: the parts that must stay in view, in fractions, the first matters most; empty for the whole picture.
        find: whether a subject is to be found in the pixels.
        crops: settings of single crops, by slot and crop name.
        drawn: whether it is flat graphics; None leaves that to its pixels.
    """

    alt: str | None = None
    subjects: tuple[Box, ...] = ()
    find: bool = False
    crops: Mapping[tuple[str, str], CropOverride] = field(default_factory=dict)
    drawn: bool | None = None
