"""Rules of a stylesheet for pictures that are shown as backgrounds: a class for each slot and master.

CSS knows no `sizes`: `image-set()` selects by density and type alone (CSS Images Level 4, section 2.4). So there is a rule
for each crop and band, and in it the file that is sharp on the widest device of the audience there, at each density.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from sarvel.core.address.address import Address
from sarvel.core.css.device import Device
from sarvel.core.edition.compose import Crop, Picture
from sarvel.core.edition.rendition import Rendition, plain_name
from sarvel.core.markup.picture import ladders_of

_HEIGHT = 900  # CSS px of a viewport that not in the audience has


STYLESHEET = "pictures.css"
"""The name of the stylesheet next to the renditions."""


def class_names(pictures: Iterable[Picture]) -> dict[tuple[str, str], str]:
    """The class of each picture, by slot and master: made of their names, with the file's ending where only that differs."""
    keys = [(picture.slot.name, picture.master.key) for picture in pictures]
    short = {pair: f"{plain_name(pair[0])}-{_plain_path(pair[1].rsplit('.', 1)[0])}" for pair in keys}
    count = Counter(short.values())
    return {
        pair: name if count[name] == 1 else f"{name}-{_plain_path(pair[1].rsplit('.', 1)[-1])}"
        for pair, name in short.items()
    }


def background_rules(pictures: Sequence[Picture], starts: Sequence[float], address: Address) -> str:
    """The rules of all pictures whose slot says that they are backgrounds.

    Args:
        starts: where bands of the layout begin, CSS px, the first at 0.
        address: how the stylesheet reaches the files.
    """
    names = class_names(pictures)
    rules = (
        rule
        for picture in pictures
        if picture.slot.use == "background"
        for rule in _rules(picture, names[picture.slot.name, picture.master.key], starts, address)
    )
    return "".join(f"{rule}\n" for rule in rules)


@dataclass(frozen=True)
class BackgroundFiles:
    """What a style attribute says in place of one file.

    Attributes:
        plain: the address for browsers that know no image-set.
    """

    plain: str
    set: str


def background_files(picture: Picture, address: Address) -> BackgroundFiles:
    """The files of a picture for a style attribute, which can tell devices apart by their density alone.

    An option serves the devices of the audience whose density is at most its own and beyond that of the one before: many
    dense screens are narrow, and need a smaller file than a desktop. All that are denser than the slot is made for share one.

    Args:
        picture: the picture; of several crops that without a condition counts.
        address: how the page reaches the files.
    """
    crop, slot = picture.crops[-1], picture.slot
    needs: dict[float, float] = {}
    densest = max(visits.device.dpr for visits in crop.visits)
    for visits in crop.visits:
        device = visits.device
        need = slot.shown.on(device) * min(device.dpr, max(slot.densities))
        density = device.dpr if device.dpr <= max(slot.densities) else densest
        needs[density] = max(need, needs.get(density, 0.0))
    options = [
        f"url('{_in_css(address.of(picture, crop, rendition))}')" + _type(rendition, address, "'") + f" {density:g}x"
        for ladder in ladders_of(crop, address)
        for density, rendition in _merged({density: _sharp(ladder, need) for density, need in sorted(needs.items())})
    ]
    plain = _sharp(list(crop.renditions.values())[-1], needs.get(1.0, min(needs.values())))
    return BackgroundFiles(f"'{_in_css(address.of(picture, crop, plain))}'", f"image-set({', '.join(options)})")


def _in_css(url: str) -> str:
    """An address between single quotes: a quote within it is escaped as URLs escape it."""
    return url.replace("'", "%27")


def _merged(by_density: Mapping[float, Rendition]) -> Iterator[tuple[float, Rendition]]:
    """Files by density, neighbours of one file under the greatest density of theirs."""
    items = list(by_density.items())
    for (density, rendition), following in zip(items, [*items[1:], None], strict=True):
        if following is None or following[1].name != rendition.name:
            yield density, rendition


def _type(rendition: Rendition, address: Address, quote: str) -> str:
    """What an option of image-set says of its type; nothing where the server follows what a browser accepts."""
    return "" if address.by_accept else f" type({quote}{rendition.media_type}{quote})"


def _rules(picture: Picture, name: str, starts: Sequence[float], address: Address) -> Iterator[str]:
    """The rules of a picture, base first: of rules that hold the last one wins, of crops the first."""
    before = ""
    for crop in reversed(picture.crops):
        for start, end in zip(starts, [*starts[1:], None], strict=True):
            devices = _devices(picture, crop, start, end)
            if not devices:
                continue
            said = _said(picture, crop, devices, address)
            media = _media(crop.rule.media.css, start)
            if not before or said != before or media == crop.rule.media.css:
                rule = f".{name} {{ {said} }}"
                yield f"@media {media} {{ {rule} }}" if media and before else rule
            before = said


def _devices(picture: Picture, crop: Crop, start: float, end: float | None) -> list[Device]:
    """Devices of the audience that meet a crop in a band; if none does, the widest viewport there."""
    met = [one.device for one in crop.visits if start <= one.device.width < (end or float("inf"))]
    widest = Device(max(1, round(end) - 1 if end else max(round(start), 1920)), _HEIGHT, 1)
    return met or ([widest] if picture.crop_on(widest) is crop else [])


def _media(media: str, start: float) -> str:
    band = f"(min-width: {start:g}px)" if start else ""
    if not (media and band) or band in media:
        return media or band
    return ", ".join(f"{query.strip()} and {band}" for query in media.split(","))


def _said(picture: Picture, crop: Crop, devices: Sequence[Device], address: Address) -> str:
    """Declarations: a plain file for browsers without image-set, then the set, which others take."""
    wide = max(picture.slot.shown.on(device) for device in devices)
    densities = sorted({1.0, *picture.slot.densities})
    fallback = _sharp(list(crop.renditions.values())[-1], wide)
    options = [
        f"""url("{address.of(picture, crop, rendition)}"){_type(rendition, address, '"')} {density:g}x"""
        for ladder in ladders_of(crop, address)
        for density, rendition in _each_once({density: _sharp(ladder, wide * density) for density in densities})
    ]
    return f'background-image: url("{address.of(picture, crop, fallback)}"); background-image: image-set({", ".join(options)})'


def _sharp(ladder: Sequence[Rendition], need: float) -> Rendition:
    return next((one for one in ladder if one.width >= need), ladder[-1])


def _each_once(by_density: dict[float, Rendition]) -> Iterator[tuple[float, Rendition]]:
    """Files by density, each once: where a master gives no more for a higher density, the lower one says all."""
    seen: set[str] = set()
    for density, rendition in by_density.items():
        if rendition.name not in seen:
            seen.add(rendition.name)
            yield density, rendition


def _plain_path(key: str) -> str:
    return "-".join(plain_name(part) or re.sub(r"\W", "", part) or "x" for part in key.split("/"))
