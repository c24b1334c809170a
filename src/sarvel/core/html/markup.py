"""Image markup for a picture of the Edition: design rule "Markup". What it holds, not how it is laid out in a page."""

from __future__ import annotations

from dataclasses import dataclass, replace

from sarvel.core.css.device import Device
from sarvel.core.edition import Cut, Picture, Rendition

_LAPTOP = Device(1440, 900, 1)  # design rule "Markup": src is what is sharp on a 1x laptop


@dataclass(frozen=True)
class Source:
    """What one `source`, or the `img`, says of the files of one cut in one format. "" is an attribute left out."""

    media: str
    type: str
    srcset: str
    sizes: str
    width: int
    height: int


@dataclass(frozen=True)
class Markup:
    """The markup of one picture.

    Attributes:
        sources: in the order that browsers try them; empty where a lone `img` says all.
        image: what the `img` itself says: the last cut in the last format.
        src: the file for browsers that know no srcset.
        eager: whether the image is seen at once.
    """

    sources: tuple[Source, ...]
    image: Source
    src: str
    eager: bool


def write_markup(picture: Picture, address: str) -> Markup:
    """The markup of a picture.

    Args:
        picture: the picture.
        address: how pages reach the folder of renditions: a URL prefix that needs no escaping, without a slash at its end.
    """
    sources = [_source(picture, cut, ladder, address) for cut in picture.cuts for ladder in cut.renditions.values()]
    *before, last = sources
    return Markup(
        sources=tuple(before),
        image=replace(last, media="", type=""),
        src=_url(address, _fallback(picture)),
        eager=picture.slot.load == "first",
    )


def displayed_size(picture: Picture, cut: Cut) -> tuple[int, int]:
    """Width and height that reserve a cut's space, CSS px: as large as it is shown, or as its largest rendition if less."""
    largest = next(iter(cut.renditions.values()))[-1]
    shown = max(picture.slot.shown.on(visits.device) for visits in cut.visits)
    if shown >= largest.width:
        return largest.width, largest.height
    width = max(1, round(shown))
    return width, max(1, round(width * cut.box.height / cut.box.width))


def _source(picture: Picture, cut: Cut, ladder: tuple[Rendition, ...], address: str) -> Source:
    width, height = displayed_size(picture, cut)
    return Source(
        media=cut.rule.media.css,
        type=ladder[0].media_type,
        srcset=", ".join(f"{_url(address, rendition)} {_descriptor(cut, rendition)}" for rendition in ladder),
        sizes=cut.sizes,
        width=width,
        height=height,
    )


def _descriptor(cut: Cut, rendition: Rendition) -> str:
    if cut.constant is None:
        return f"{rendition.width}w"
    return f"{rendition.width / cut.constant:.4g}x"


def _url(address: str, rendition: Rendition) -> str:
    return f"{address}/{rendition.name}" if address else rendition.name


def _fallback(picture: Picture) -> Rendition:
    """The smallest rung of the last cut that is sharp on a 1x laptop, or on as wide a viewport as meets that cut."""
    cut = picture.cuts[-1]
    devices = [
        device for device in (_LAPTOP, *(visits.device for visits in cut.visits)) if picture.cut_on(device) is cut
    ]
    widest = max(devices or [cut.visits[0].device], key=lambda device: device.width)
    need = picture.slot.shown.on(min(widest, _LAPTOP, key=lambda device: device.width))
    ladder = list(cut.renditions.values())[-1]
    return next((rendition for rendition in ladder if rendition.width >= need), ladder[-1])
