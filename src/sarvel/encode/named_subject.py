"""The subject that a master's own metadata names: regions of XMP, or else the area that a camera wrote into Exif."""

from __future__ import annotations

import functools
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from PIL import Image

from sarvel.core.crop.place import WHOLE, Box, kept
from sarvel.core.crop.turn import turned, turned_size
from sarvel.core.facts import NamedSubject
from sarvel.encode.orientation import exif_of, upright_turn
from sarvel.encode.xmp_regions import Region, RegionError, regions_of, same_shape, within

# Exif 2.32, section 4.6.5: tags of the Exif IFD.
_EXIF_IFD = 0x8769
_AREA, _LOCATION = 0x9214, 0xA214  # SubjectArea, SubjectLocation
_WIDTH, _HEIGHT = 0xA002, 0xA003  # PixelXDimension, PixelYDimension

_MIDDLE = 0.01  # cameras write the very middle where they chose nothing
_ALL = 0.95  # of the picture: a region that covers more says nothing


class InFile(NamedTuple):
    """What the metadata of a master says of its subject.

    Attributes:
        subject: None if it names none.
        note: why it cannot be read, or is of no use; "" for nothing.
    """

    subject: NamedSubject | None
    note: str = ""


def named_in(image: Image.Image, upright: tuple[int, int]) -> InFile:
    """The subject that an image's metadata names; damaged metadata is no fault.

    Args:
        image: as it is stored, and not decoded yet.
        upright: its width and height once it is turned, px.
    """
    xmp, note = image.info.get("xmp"), ""
    turn, mirror = upright_turn(image)
    size = turned_size(*upright, turn)
    regions: Sequence[Region] = ()
    try:
        regions = regions_of(xmp.encode() if isinstance(xmp, str) else xmp, size, upright) if xmp else ()
    except RegionError as error:
        note = f"{error}; no subject is taken from it"
    regions = regions or _areas(exif_of(image), size)
    boxes = subjects_of(
        region if region.is_upright else region._replace(box=turned(region.box, turn, mirror=mirror), is_upright=True)
        for region in regions
    )
    return InFile(NamedSubject(boxes, "file") if boxes else None, note)


def _areas(exif: Image.Exif, size: tuple[int, int]) -> list[Region]:
    """The subject that a camera wrote: a point, a circle by its diameter, or a box around its centre."""
    try:
        tags = exif.get_ifd(_EXIF_IFD)
        said = tags.get(_AREA) or tags.get(_LOCATION) or ()
        of = float(tags.get(_WIDTH) or size[0]), float(tags.get(_HEIGHT) or size[1])
        x, y, *more = map(float, said)
    except Exception:  # noqa: BLE001 - Pillow raises anything for damaged tags
        return []
    if not same_shape(of, size) or len(more) > 2:  # it was cropped since
        return []
    wide, high = (more or [0.0])[0], (more or [0.0])[-1]
    box = within((x - wide / 2) / of[0], (y - high / 2) / of[1], (x + wide / 2) / of[0], (y + high / 2) / of[1])
    chosen = abs(x / of[0] - 0.5) > _MIDDLE or abs(y / of[1] - 0.5) > _MIDDLE
    return [Region(box, "thing")] if box and chosen else []


def subjects_of(regions: Iterable[Region]) -> tuple[Box, ...]:
    """The parts to keep in view: first the one to place, then faces, then single things; the largest first.

    The first is the main subject, else all things together, else all faces together.
    """
    every = sorted(regions, key=lambda region: -region.box.width * region.box.height)
    faces = [region.box for region in every if region.part == "face"]
    things = [region.box for region in every if region.part == "main"] or [
        region.box for region in every if region.part == "thing"
    ]
    whole = functools.reduce(Box.around, things or faces, (things or faces or [WHOLE])[0])
    if not every or (not faces and kept(whole, WHOLE) > _ALL):
        return ()
    return tuple(dict.fromkeys((whole, *faces, *things)))
