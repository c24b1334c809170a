"""Files for places that name one: links, posters, images for sharing, icons."""

from __future__ import annotations

from dataclasses import dataclass

from sarvel.core.address.address import Address
from sarvel.core.edition.compose import Picture


@dataclass(frozen=True)
class NamedFile:
    """One file of a picture.

    Attributes:
        url: escaped, as the page reaches it.
        width: px.
        height: px.
        type: its media type.
    """

    url: str
    width: int
    height: int
    type: str


def named_files(picture: Picture, address: Address) -> list[NamedFile]:
    """The files of a picture in its last format, narrowest first; of several crops, that without a condition."""
    crop = picture.crops[-1]
    ladder = list(crop.renditions.values())[-1]
    return [NamedFile(address.of(picture, crop, one), one.width, one.height, one.media_type) for one in ladder]


def at_least(files: list[NamedFile], width: int) -> NamedFile:
    """The narrowest file of at least so many px across, else the widest."""
    return next((one for one in files if one.width >= width), files[-1])
