"""Image markup for a picture of the Edition: docs/inside.md, "Markup". `pages.write` lays it out in a page."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Literal

from sarvel.core.address.address import Address
from sarvel.core.edition.compose import Crop, Picture
from sarvel.core.edition.rendition import Rendition

_ONE_SHAPE = 1.01  # shapes that differ by less are one: rounding to whole px differs by as much
_NEARLY = 0.98  # of the shown width, among which the most exact ratio is looked for
_UNSEEN = 0.05  # CSS px; browsers lay out in 64ths of one


@dataclass(frozen=True)
class Source:
    """The attributes of one `source`, or of the `img`: one crop in one format. "" is one left out."""

    media: str
    type: str
    srcset: str
    sizes: str
    width: int
    height: int


@dataclass(frozen=True)
class Room:
    """The way in which room is kept for an image until it has loaded.

    Attributes:
        kind: "ratio" in a style, "size" by width and height, or "none".
        ratio: width and height of the shape that most visits meet.
        exact: of the master, whole, if its files round that by so much that a box would change; None if not.
        cropped: whether the plan asks for another shape than the master's.
        height: whether a style must say that the height follows the width, because no stylesheet is known to do so.
    """

    kind: Literal["ratio", "size", "none"]
    ratio: tuple[int, int]
    exact: tuple[int, int] | None = None
    cropped: bool = False
    height: bool = False


@dataclass(frozen=True)
class Markup:
    """The markup of one picture.

    Attributes:
        sources: in the order that browsers try them; empty where a lone `img` says all.
        image: what the `img` itself says: the last crop in the last format.
        src: the file for browsers that know no srcset.
        eager: whether the image is seen at once.
        room: how room is kept for it.
        background: what the property `background` says until the image has loaded; "" for nothing.
        style: whether a style attribute may be written; else a stylesheet holds it.
        urgent: whether browsers are to fetch it before others.
    """

    sources: tuple[Source, ...]
    image: Source
    src: str
    eager: bool
    room: Room
    background: str = ""
    style: bool = True
    urgent: bool = False

    @property
    def opening(self) -> Markup:
        """The same for an image that its page opens with: not lazy, and so without automatic sizes."""
        image, *sources = (replace(one, sizes=one.sizes.removeprefix("auto, ")) for one in (self.image, *self.sources))
        return replace(self, image=image, sources=tuple(sources), eager=True)


def write_markup(picture: Picture, address: Address, backgrounds: Mapping[str, str] | None) -> Markup:
    """The markup of a picture.

    Args:
        address: how the page reaches the files. If one address serves all formats, a crop has one source, without a type.
        backgrounds: of placeholders, by key; None leaves them out of the markup. An attribute holds but one for all
            crops: the one of the crop that most visits of the audience meet.
    """
    sources = [
        _source(picture, crop, ladder, address) for crop in picture.crops for ladder in ladders_of(crop, address)
    ]
    *before, last = sources
    return Markup(
        sources=tuple(before),
        image=replace(last, media="", type=""),
        src=address.of(picture, picture.crops[-1], fallback(picture)),
        eager=picture.slot.loading == "eager",
        urgent=picture.slot.loading == "eager",
        room=room_of(picture),
        background=background_of(max(picture.crops, key=_visited), backgrounds) if backgrounds is not None else "",
        style=backgrounds is not None,
    )


def room_of(picture: Picture) -> Room:
    """The way in which room is kept for a picture: what its slot says; else by ratio, if all its crops are of one shape.

    Crops of several shapes need width and height on each source (HTML, section 4.8.17 "Dimension attributes"), which are a
    size and a ratio: a stylesheet that sets only a width would not change the height.
    """
    said = picture.slot.reserve
    ratios = [crop.box.width / crop.box.height for crop in picture.crops]
    is_one_shape = max(ratios) <= min(ratios) * _ONE_SHAPE
    kind = said or ("ratio" if is_one_shape else "size")
    ratio = _ratio(max(picture.crops, key=_visited))
    cropped = any(crop.rule.ratio is not None or crop.by_hand for crop in picture.crops)
    exact = None if cropped or kind == "none" else _exact(picture)
    return Room(kind, ratio, exact, cropped, height=not said and not is_one_shape)


def _exact(picture: Picture) -> tuple[int, int] | None:
    """Width and height of a master, in lowest terms, if the rounded height of a file changes a box visibly."""
    width, height = picture.master.width, picture.master.height
    common = math.gcd(width, height)
    shown = max(crop.met.shown for crop in picture.crops)
    off = max(abs(one.height / one.width - height / width) for one in picture.renditions())
    return (width // common, height // common) if off * shown > _UNSEEN else None


def _ratio(crop: Crop) -> tuple[int, int]:
    """Width and height of the shape of a crop, in lowest terms, as its largest file has it."""
    largest = next(iter(crop.renditions.values()))[-1]
    common = math.gcd(largest.width, largest.height)
    return largest.width // common, largest.height // common


def background_of(crop: Crop, backgrounds: Mapping[str, str]) -> str:
    """The value of `background` until a crop has loaded: within the edges of the image, without its padding."""
    if crop.placeholder is None:
        return ""
    said = backgrounds.get(crop.placeholder.key, "") if crop.placeholder.key else crop.placeholder.kind
    return f"{said} content-box" if said else ""


def style_rules(pictures: Iterable[Picture], backgrounds: Mapping[str, str], address: Address) -> str:
    """Styles as rules of a stylesheet, one for each crop: for pages whose security policy allows no style attribute.

    All but placeholders are rules of no specificity, so that the site's own stylesheet wins.

    Images are found by the file that `src` names, which no two pictures share.

    Args:
        backgrounds: of placeholders, by key.
        address: how the stylesheet reaches the files; images are found by the end of theirs.
    """
    rules: list[str] = []
    images: list[str] = []
    for picture in pictures:
        name, room = address.of(picture, picture.crops[-1], fallback(picture)), room_of(picture)
        image = f'img[src$="/{name}"], img[src="{name}"]'
        images.append(image)
        if room.height:
            rules.append(f":where({image}) {{ height: auto }}")
        for crop in reversed(picture.crops):  # of rules the last that holds wins, of sources the first
            width, height = _ratio(crop)
            said = [f":where({image}) {{ aspect-ratio: auto {width}/{height} }}"] if room.kind == "ratio" else []
            if background := background_of(crop, backgrounds):
                said.append(f"{image} {{ background: {background} }}")
            media = crop.rule.media.css
            rules += [f"@media {media} {{ {rule} }}" if media else rule for rule in said]
    if images:  # laid out as if the picture were not there, as a child of a flex container perhaps
        rules.insert(0, f":where(picture:has(> :is({', '.join(images)}))) {{ display: contents }}")
    return "".join(f"{rule}\n" for rule in rules)


def displayed_size(crop: Crop) -> tuple[int, int]:
    """Width and height that reserve a crop's space, CSS px: its shown size, or that of its largest rendition if less.

    Where the shown width differs between viewports it is no size but a ratio, and a little less of it gives that more exactly:
    browsers lay the image out by it.
    """
    largest = next(iter(crop.renditions.values()))[-1]
    if crop.met.shown >= largest.width:
        return largest.width, largest.height
    widest, ratio = max(1, round(crop.met.shown)), crop.box.height / crop.box.width
    least = widest if crop.constant is not None else max(1, math.ceil(widest * _NEARLY))
    width = min(range(widest, least - 1, -1), key=lambda one: round(abs(round(one * ratio) / (one * ratio) - 1), 5))
    return width, max(1, round(width * ratio))


def _visited(crop: Crop) -> float:
    return sum(visits.share for visits in crop.visits)


def ladders_of(crop: Crop, address: Address) -> list[tuple[Rendition, ...]]:
    """The files of a crop as markup lists them: a list for each format, best first, or one list for all."""
    ladders = list(crop.renditions.values())
    return ladders[:1] if address.by_accept else ladders


def _source(picture: Picture, crop: Crop, ladder: tuple[Rendition, ...], address: Address) -> Source:
    width, height = displayed_size(crop)
    files = ((address.of(picture, crop, rendition), _descriptor(crop, rendition)) for rendition in ladder)
    return Source(
        media=crop.rule.media.css,
        type="" if address.by_accept else ladder[0].media_type,
        srcset=", ".join(f"{url} {descriptor}" for url, descriptor in files),
        sizes=crop.sizes,
        width=width,
        height=height,
    )


def _descriptor(crop: Crop, rendition: Rendition) -> str:
    if crop.constant is None:
        return f"{rendition.width}w"
    return f"{rendition.width / crop.constant:.4g}x"


def fallback(picture: Picture) -> Rendition:
    """The smallest rung of the last crop that is sharp on a 1x laptop, or on as wide a viewport as meets that crop."""
    crop = picture.crops[-1]
    ladder = list(crop.renditions.values())[-1]
    return next((rendition for rendition in ladder if rendition.width >= crop.met.shown_on_laptop), ladder[-1])
