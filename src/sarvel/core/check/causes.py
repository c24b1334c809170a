"""One finding for one cause: what follows from a fault is not told next to it."""

from __future__ import annotations

import bisect
from collections.abc import Iterable, Mapping

from sarvel.core.check.rule import Finding
from sarvel.core.html.document import Document

_FIT = frozenset({"image-soft", "image-wasteful"})
_WIDTHS = _FIT | {"sizes-contradict-the-slot", "sizes-contradict-the-style", "sizes-beyond-the-files"}
_LIST = _WIDTHS | {"widths-without-sizes", "sizes-without-widths", "one-huge-file", "shapes-differ"}
_SOURCE = frozenset({"source-never-chosen", "sources-out-of-order", "gap-between-sources", "ranges-overlap-by-a-pixel"})

_FOLLOWING: Mapping[str, frozenset[str]] = {
    "attribute-misspelt": _LIST | _SOURCE | {"address-missing", "size-not-said"},
    "attribute-on-picture": frozenset({"one-huge-file"}),
    "src-on-source": _SOURCE,
    "candidate-dropped": _LIST | _SOURCE,
    "address-not-escaped": _LIST | _SOURCE,
    "widths-and-densities-mixed": _LIST,
    "same-descriptor-twice": _FIT | {"width-not-the-files"},
    "densities-out-of-order": _FIT,
    "width-not-the-files": _WIDTHS,
    "length-dropped": _WIDTHS | {"entry-never-counts", "sizes-end-open", "auto-not-lazy"},
    "entry-never-counts": _WIDTHS,
    "widths-without-sizes": _FIT,
    "auto-not-lazy": _WIDTHS,
    "source-never-chosen": _FIT | (_SOURCE - {"source-never-chosen"}),
    "sources-out-of-order": _FIT,
    "type-unknown": _SOURCE | {"type-not-the-files", "no-modern-format"},
    "img-not-last": _FIT | {"no-modern-format", "one-huge-file"},
    "img-not-a-child": _FIT | {"no-modern-format", "one-huge-file"},
    "dimension-no-number": frozenset({"size-not-said", "height-stays"}),
    "address-missing": frozenset({"size-not-said"}),
    "address-of-one-machine": frozenset({"fetched-without-encryption", "file-missing"}),
    "lazy-and-urgent": frozenset({"first-image-lazy"}),
    "sizes-contradict-the-slot": _WIDTHS - {"sizes-contradict-the-slot"},
}
"""Rules whose breach follows from the breach of another at the same image."""

_OF_A_TAG = frozenset({"source-never-chosen", "sources-out-of-order", "width-not-the-files"})
"""Of these, rules whose breach follows from that at the same tag alone."""


def causes_alone(page: Document, found: Iterable[Finding]) -> list[Finding]:
    """Findings, none of which follows from another one at the same image."""
    found = list(found)
    if not any(one.rule in _FOLLOWING for one in found):
        return found
    spans = sorted(_spans(page))
    places = [_place(spans, one.start) for one in found]
    following: set[tuple[int, str]] = set()
    for one, place in zip(found, places, strict=True):
        if place:
            tag, number = place
            following |= {(-tag if rule in _OF_A_TAG else number, rule) for rule in _FOLLOWING.get(one.rule, ())}
    return [
        one
        for one, place in zip(found, places, strict=True)
        if place is None or (-place[0] if one.rule in _OF_A_TAG else place[1], one.rule) not in following
    ]


def _place(spans: list[tuple[int, int, int]], at: int) -> tuple[int, int] | None:
    """Where the tag starts that an offset lies in, and the number of its image; None if it lies in none."""
    i = bisect.bisect_right(spans, at, key=lambda span: span[0]) - 1
    return (spans[i][0], spans[i][2]) if i >= 0 and at < spans[i][1] else None


def _spans(page: Document) -> list[tuple[int, int, int]]:
    """Start and end offsets of all tags that count for an image, each with the image's number."""
    pictures = {picture.images[0].tag.start: picture for picture in page.pictures if picture.images}
    spans = []
    for image in page.images:
        picture = pictures.get(image.tag.start)
        more = (picture.tag, *picture.late) if picture else ()
        spans += [(tag.start, tag.end, image.number) for tag in (*image.tags, *more)]
    return spans
