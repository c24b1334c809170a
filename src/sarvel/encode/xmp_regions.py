"""Regions of an image that its XMP metadata describes.

Read are Image Region of the IPTC Photo Metadata Standard 2022.1 (Iptc4xmpExt:ImageRegion), and the regions of the Metadata
Working Group, "Guidelines for Handling Image Metadata" 2.0, section 5.9 (mwg-rs:Regions), which face recognition writes.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import TYPE_CHECKING, Literal, NamedTuple

from sarvel.core.crop.place import Box

if TYPE_CHECKING:
    from xml.etree.ElementTree import Element

_RDF = "{http://www.w3.org/1999/02/22-rdf-syntax-ns#}"
_IPTC = "{http://iptc.org/std/Iptc4xmpExt/2008-02-29/}"
_MWG = "{http://www.metadataworkinggroup.com/schemas/regions/}"
_AREA = "{http://ns.adobe.com/xmp/sType/Area#}"
_DIMENSIONS = "{http://ns.adobe.com/xap/1.0/sType/Dimensions#}"
_XMP = "{http://ns.adobe.com/xap/1.0/}"

_MARKS = ("ImageRegion", "/schemas/regions/")  # without one of them there is no region to look for
_MOST_TEXT = 1_000_000  # bytes; that of a photograph with a hundred faces has some 60,000
_MOST_REGIONS = 200
_SAME_SHAPE = 0.02  # widths and heights of a picture in several sizes differ by rounding

# The ends of identifiers of IPTC NewsCodes (image region roles and types), and words that programs write in their place.
_FACES, _MAIN = ("face", "head"), ("mainsubjectarea", "mainsubject")
_NO_SUBJECT = ("cropping", "copyright", "machinecode", "barcode", "dividingline")
_MWG_PARTS: dict[str, RegionPart] = {"face": "face", "pet": "thing", "focus": "thing", "": "thing"}

RegionPart = Literal["main", "thing", "face"]


class Region(NamedTuple):
    """A region of an image.

    Attributes:
        box: in fractions of the image as it is stored, or upright.
        part: whether it is the main subject, another thing, or a face.
        is_upright: whether it speaks of the image turned upright.
    """

    box: Box
    part: RegionPart
    is_upright: bool = False


class RegionError(ValueError):
    """Metadata that cannot be read, or speaks of another picture; its text tells why."""


def regions_of(xmp: bytes, size: tuple[int, int], upright: tuple[int, int]) -> list[Region]:
    """The regions of XMP metadata that may be a subject.

    Args:
        xmp: the packet; in UTF-8, or in UTF-16 or UTF-32 with a byte order mark.
        size: width and height of the stored image, px.
        upright: the same once it is turned upright.

    Raises:
        RegionError: there seem to be regions, but the packet is too large, is no XML, declares entities, or was written for
            a picture of another shape.
    """
    text = _decoded(xmp)
    if not any(mark in text for mark in _MARKS):
        return []
    if len(xmp) > _MOST_TEXT:
        raise RegionError(f"its XMP metadata has more than {_MOST_TEXT // 10**6} MB")
    if "<!DOCTYPE" in text:  # XML 1.0, section 4.2: entities are declared there alone, and XMP needs none
        raise RegionError("its XMP metadata declares entities")
    from xml.etree import ElementTree as ET

    try:
        root = ET.fromstring(text.strip("\0 \ufeff\t\r\n"))  # noqa: S314 - no entities: see above
    except ET.ParseError as error:
        raise RegionError(f"its XMP metadata is no XML ({error})") from error
    return [*_iptc(root, size), *_mwg(root, size, upright)][:_MOST_REGIONS]


def _decoded(xmp: bytes) -> str:
    wide = {b"\xff\xfe\0\0": "utf-32", b"\0\0\xfe\xff": "utf-32", b"\xff\xfe": "utf-16", b"\xfe\xff": "utf-16"}
    encoding = next((name for mark, name in wide.items() if xmp.startswith(mark)), "utf-8-sig")
    return xmp.decode(encoding, "replace")


def _iptc(root: Element, size: tuple[int, int]) -> Iterator[Region]:
    for listed in root.iter(f"{_IPTC}ImageRegion"):
        for region in _items(listed):
            boundary = _inner(region, f"{_IPTC}RegionBoundary")
            words = {*_words(region, f"{_IPTC}rRole"), *_words(region, f"{_IPTC}rCtype")}
            box = None if boundary is None else _iptc_box(boundary, size)
            if box is None or any(word.endswith(_NO_SUBJECT) for word in words):
                continue
            is_face, is_main = words.intersection(_FACES), words.intersection(_MAIN)
            yield Region(box, "face" if is_face else "main" if is_main else "thing")


def _iptc_box(boundary: Element, size: tuple[int, int]) -> Box | None:
    """The box of a rectangle, a circle or a polygon; None of one that lacks a number."""
    across, down = size if _said(boundary, f"{_IPTC}rbUnit") == "pixel" else (1, 1)
    x, y, wide, high, radius = (_number(boundary, f"{_IPTC}{name}") for name in ("rbX", "rbY", "rbW", "rbH", "rbRx"))
    match _said(boundary, f"{_IPTC}rbShape"):
        case "rectangle":
            edges = x, y, x + wide, y + high
        case "circle":  # a relative radius is one of the width
            tall = radius * (size[0] / size[1] if across == down == 1 else 1)
            edges = x - radius, y - tall, x + radius, y + tall
        case _:
            vertices = _inner(boundary, f"{_IPTC}rbVertices")
            points = [] if vertices is None else _items(vertices)
            xs, ys = ([_number(one, f"{_IPTC}{name}") for one in points] or [math.nan] for name in ("rbX", "rbY"))
            edges = min(xs), min(ys), max(xs), max(ys)
            if any(map(math.isnan, (*xs, *ys))):
                return None
    return within(edges[0] / across, edges[1] / down, edges[2] / across, edges[3] / down)


def _mwg(root: Element, size: tuple[int, int], upright: tuple[int, int]) -> Iterator[Region]:
    for regions in root.iter(f"{_MWG}Regions"):
        said, listed = (_inner(regions, f"{_MWG}{name}") for name in ("AppliedToDimensions", "RegionList"))
        of = None if said is None else (_number(said, f"{_DIMENSIONS}w"), _number(said, f"{_DIMENSIONS}h"))
        if listed is None:
            continue
        if of and not (same_shape(of, size) or same_shape(of, upright)):
            raise RegionError(f"its regions are of a picture of {of[0]:g}×{of[1]:g} px, it has {size[0]}×{size[1]}")
        is_upright = of is not None and not same_shape(of, size)
        shape = upright if is_upright else size
        for region in _items(listed):
            area = _inner(region, f"{_MWG}Area")
            part = _MWG_PARTS.get((_said(region, f"{_MWG}Type") or "").lower())
            box = None if area is None or part is None else _mwg_box(area, shape)
            if box and part:
                yield Region(box, part, is_upright)


def _mwg_box(area: Element, size: tuple[int, int]) -> Box | None:
    """The box of an area around its centre: a rectangle, a circle by its diameter, or a point."""
    across, down = size if _said(area, f"{_AREA}unit") == "pixel" else (1, 1)
    x, y, wide, high, diameter = (_number(area, f"{_AREA}{name}") for name in ("x", "y", "w", "h", "d"))
    if not math.isnan(diameter):  # normalized by the shorter side
        side = diameter * (min(size) if across == down == 1 else 1)
        wide, high = (side / size[0], side / size[1]) if across == down == 1 else (side, side)
    elif math.isnan(wide) and math.isnan(high):
        wide = high = 0.0
    return within((x - wide / 2) / across, (y - high / 2) / down, (x + wide / 2) / across, (y + high / 2) / down)


def same_shape(one: tuple[float, float], other: tuple[float, float]) -> bool:
    """Tells whether two widths and heights are of one picture, in one or two sizes."""
    return min(*one, *other) > 0 and abs(one[0] * other[1] / (one[1] * other[0]) - 1) <= _SAME_SHAPE


def within(left: float, top: float, right: float, bottom: float) -> Box | None:
    """A box of fractions, cut off at the edges of the picture; None if it lies outside, or an edge is NaN."""
    if not (left <= right and top <= bottom and left <= 1 and top <= 1 and right >= 0 and bottom >= 0):
        return None
    return Box(max(0.0, left), max(0.0, top), min(1.0, right), min(1.0, bottom))


def _resource(node: Element) -> Element:
    """The element that holds the properties of a structure: the node, or its description. RDF/XML, sections 2.2 and 2.11."""
    inner = node.find(f"{_RDF}Description")
    return node if inner is None else inner


def _inner(node: Element, name: str) -> Element | None:
    return _resource(node).find(name)


def _said(node: Element, name: str) -> str | None:
    """A simple property, which may be written as an attribute."""
    node = _resource(node)
    said = node.get(name, node.findtext(name))
    return said.strip() if said else None


def _number(node: Element, name: str) -> float:
    """A property as a number; NaN for any other text."""
    try:
        number = float(_said(node, name) or "nan")
    except ValueError:
        return math.nan
    return number if math.isfinite(number) else math.nan


def _items(node: Element) -> list[Element]:
    """The items of a list of any kind."""
    return [item for listed in node for item in listed.findall(f"{_RDF}li")][:_MOST_REGIONS]


def _words(region: Element, name: str) -> Iterator[str]:
    """The ends of identifiers, and the names, of the roles or types of a region: in lower case, letters alone."""
    entities = _inner(region, name)
    for entity in [] if entities is None else _items(entities):
        identifiers = _inner(entity, f"{_XMP}Identifier")
        names = _inner(entity, f"{_IPTC}Name")
        said = [item.text for listed in (identifiers, names) if listed is not None for item in _items(listed)]
        for one in (*said, _said(entity, f"{_XMP}Identifier"), _said(entity, f"{_IPTC}Name")):
            yield "".join(filter(str.isalpha, (one or "").rpartition("/")[2].lower()))
