"""Rules for the sources of a picture: which can ever be chosen, and who falls between them."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from sarvel.core.check.condition_slips import media_slip
from sarvel.core.check.context import FileLookup
from sarvel.core.check.order import living_order, order_edits
from sarvel.core.check.rule import Finding
from sarvel.core.check.values import type_of
from sarvel.core.css.media import parse_media
from sarvel.core.css.viewports import EVERY, NONE, Viewports
from sarvel.core.html.document import Document, Image, span_of, value_of
from sarvel.core.html.pieces import Edit, piece_edit, piece_span
from sarvel.core.html.srcset import parse_srcset
from sarvel.core.html.tags import Tag
from sarvel.core.html.template_code import holds_code

_EVERYWHERE = frozenset({"", "image/jpeg", "image/png", "image/gif", "image/svg+xml"})  # types that every browser knows
_NUMBER = re.compile(r"(?<!\d)\d{3,4}(?!\d)")  # what names of files commonly describe their width
_HUNDREDTH = 0.02  # CSS px; two of them, which every browser tells apart from the whole px
_NARROW = 2.0  # CSS px; a gap or an overlap no wider is a slip between max-width and min-width
_NO_ORDER = "No order helps: give media to the sources before it, so that they leave it something, or take it away"


@dataclass(frozen=True)
class _Range:
    """A source, the viewports on which it can hold, and those on which it surely does."""

    tag: Tag
    type: str
    can: Viewports
    sure: Viewports
    asks: bool


def check_sources(page: Document, lookup: FileLookup) -> Iterator[Finding]:
    """All findings about pictures and sources."""
    for picture in page.pictures:
        if not picture.images:
            yield Finding("picture-without-img", picture.tag.start, picture.tag.end, "this picture holds no img")
        for tag in picture.late:
            edits = _moved(page.text, tag, picture.images[0].tag)
            words = "this source comes after the img"
            yield Finding("img-not-last", tag.start, tag.end, words, "", edits)
        for tag in (*picture.sources, *picture.late):
            if src := tag.get("src"):
                named = tag.get("srcset") is None
                edits = (Edit(src.start, src.start + len(src.name), "srcset"),) if named else ()
                words = "this source has a src, which browsers ignore"
                yield Finding(
                    "src-on-source",
                    *span_of(tag, "src"),
                    words,
                    "" if named else "Take it away, or add it to srcset",
                    edits,
                )
    for tag in page.strays:
        yield Finding("source-outside-picture", tag.start, tag.end, "this source is not a child of a picture")
    for image in page.images:
        yield from _of_image(page.text, image, lookup)


def _of_image(text: str, image: Image, lookup: FileLookup) -> Iterator[Finding]:
    ranges = [_range(tag) for tag in image.sources]
    order = living_order(len(ranges), lambda some: _out_of_place([ranges[i] for i in some]))
    edits = order_edits(text, image.sources, order)
    yield from _unreadable(text, ranges)
    dead = [
        replace(one, cure=one.cure or (_NO_ORDER if order == [] else ""), edits=edits) for one in _never_chosen(ranges)
    ]
    yield from dead or [replace(one, edits=edits) for one in _out_of_order(ranges)]
    yield from _between(text, image, ranges, lookup)


def _moved(text: str, tag: Tag, image: Tag) -> tuple[Edit, ...]:
    """The edits that move a source before the img of its picture."""
    start = len(text[: tag.start].rstrip())
    line_start = len(text[: image.start].rstrip())
    white = text[line_start : image.start]
    return Edit(start, tag.end, ""), Edit(image.start, image.start, text[tag.start : tag.end] + white)


def _out_of_place(ranges: Sequence[_Range]) -> list[int]:
    """The places of sources that can never be chosen, or only in browsers that do not know an earlier format."""
    found = (*_never_chosen(ranges), *_out_of_order(ranges))
    starts = {one.start for one in found}
    return [i for i, one in enumerate(ranges) if one.tag.start in starts]


def _range(tag: Tag) -> _Range:
    """The viewports of a source; browsers pass over one without a sound candidate (HTML, "updating the source set")."""
    media, srcset = value_of(tag, "media"), value_of(tag, "srcset") or ""
    type_ = type_of(tag)
    if not holds_code(srcset) and all(one.fault for one in parse_srcset(srcset)):
        return _Range(tag, type_, NONE, NONE, asks=False)
    if media is None or holds_code(media):
        unknown = media is not None
        return _Range(tag, type_, EVERY, NONE if unknown else EVERY, asks=False)
    test = parse_media(media).test
    return _Range(tag, type_, test.can_hold, test.can_hold - test.can_fail, asks=bool(media.strip()))


def _unreadable(text: str, ranges: Sequence[_Range]) -> Iterator[Finding]:
    """Findings about sources that no browser takes, no matter where they stand: faulty lists, and media that never hold."""
    for one in ranges:
        srcset = value_of(one.tag, "srcset")
        if srcset is not None and not holds_code(srcset) and all(candidate.fault for candidate in parse_srcset(srcset)):
            words = "browsers drop all of its srcset" if parse_srcset(srcset) else "the srcset of this source is empty"
            yield Finding("source-never-chosen", *span_of(one.tag, "srcset"), words, "Write an address in its srcset")
        elif srcset is not None and not one.can:
            yield from _never_holding(text, one.tag)


def _never_holding(text: str, tag: Tag) -> Iterator[Finding]:
    media = value_of(tag, "media") or ""
    if "print" in media.lower():  # paper has no viewport
        return
    slip = media_slip(media)
    if slip is None:
        words = f"the media of this source, {media}, never holds"
        yield Finding(
            "source-never-chosen", *span_of(tag, "media"), words, "Write a condition that can hold, or take it away"
        )
        return
    where = piece_span(text, tag, "media", *slip.marked)
    edits = piece_edit(text, tag, "media", slip.start, slip.end, slip.text) if slip.sure else ()
    words = f"the media of this source never holds: {slip.says}"
    yield Finding("source-never-chosen", *where, words, f"Write {slip.meant.strip()}", edits)


def _never_chosen(ranges: Sequence[_Range]) -> Iterator[Finding]:
    """Findings about sources that earlier ones leave nothing."""
    for i, one in enumerate(ranges):
        covered = NONE
        for before in ranges[:i]:
            if before.type in _EVERYWHERE or before.type == one.type:
                covered |= before.sure
            if one.can and not one.can - covered:
                words, cure = "this source can never be chosen: earlier sources match whenever it does", ""
                if (one.type, one.can) == (before.type, before.can):
                    words = "this source can never be chosen: one before it has the same conditions"
                    cure = "Give one of the two other media or another type, or take it away"
                yield Finding("source-never-chosen", one.tag.start, one.tag.end, words, cure)
                break


def _out_of_order(ranges: Sequence[_Range]) -> Iterator[Finding]:
    """Findings about sources whose viewports an earlier one takes, in browsers that know its format."""
    for i, one in enumerate(ranges):
        for j, before in enumerate(ranges[:i]):
            if before.type in _EVERYWHERE or before.type == one.type:
                continue
            left = one.can
            for earlier in ranges[:j]:
                if earlier.type in (*_EVERYWHERE, before.type):
                    left -= earlier.sure
            if left and not left - before.sure and before.sure - one.can:
                words = (
                    f"browsers that know {before.type} never reach this source: an earlier one matches at {left}, too"
                )
                yield Finding("sources-out-of-order", one.tag.start, one.tag.end, words)
                break


def _between(text: str, image: Image, ranges: Sequence[_Range], lookup: FileLookup) -> Iterator[Finding]:
    """Findings about viewports without a source: a slip between two, or an img smaller than what narrower viewports get."""
    for type_ in dict.fromkeys(one.type for one in ranges if one.asks):
        alike = [one for one in ranges if one.type in (type_, *_EVERYWHERE)]
        covered = NONE
        for one in alike:
            covered |= one.can
        for start, end in (EVERY - covered).whole().spans:
            below = [one for one in alike if one.can and one.can.least < start[0]]
            above = [one for one in alike if one.can.spans and one.can.spans[-1][1] > end]
            slip = below and above and end[0] - start[0] <= _NARROW
            smaller = below and any(_smaller(image.tag, one.tag, lookup, between=bool(above)) for one in below)
            if slip or smaller:
                words = f"at {Viewports(((start, end),))} no source holds"
                more = "" if slip else ", and the img has no larger files than narrower viewports get"
                where = span_of(next(one.tag for one in reversed(alike) if one.asks), "media")
                cure, edits = _ended(text, below, above) if slip else ("", ())
                yield Finding("gap-between-sources", *where, words + more, cure, edits)
        yield from _overlaps(text, [one for one in ranges if one.type == type_ and one.asks])


def _overlaps(text: str, ranges: Sequence[_Range]) -> Iterator[Finding]:
    for before, one in itertools.pairwise(ranges):
        both = before.can & one.can
        if not both or not before.can - one.can or not one.can - before.can:
            continue
        if len(both.spans) == 1 and both.spans[0][1][0] - both.spans[0][0][0] < _NARROW:
            words = f"this source and the one before both hold at {both}"
            cure, edits = _ended(text, [before, one], [before, one])
            yield Finding("ranges-overlap-by-a-pixel", *span_of(one.tag, "media"), words, cure, edits)


def _ended(text: str, some: Sequence[_Range], others: Sequence[_Range]) -> tuple[str, tuple[Edit, ...]]:
    """The cure that ends a range just before the next begins, where both are stated by one bound in px."""
    ends = [(one.tag, found) for one in some if (found := _bound(one.tag, "max"))]
    begins = [found for one in others if (found := _bound(one.tag, "min"))]
    if len(ends) != 1 or len(begins) != 1:
        return "", ()
    tag, end = ends[0]
    new = f"{float(begins[0].group(1)) - _HUNDREDTH:g}"
    edits = piece_edit(text, tag, "media", end.start(1), end.end(1), new)
    return f"End one range just before the other begins: (max-width: {new}px)", edits


def _bound(tag: Tag, which: str) -> re.Match[str] | None:
    return re.fullmatch(rf"\s*\({which}-width:\s*([\d.]+)px\)\s*", value_of(tag, "media") or "")


def _smaller(image: Tag, source: Tag, lookup: FileLookup, *, between: bool) -> bool:
    """Tells whether the widest file of an img is narrower than that of a source, as far as that is known.

    Between two sources it is no better to have the file of the narrower one: then that one need not end there.
    """
    widths = [_widest(tag, lookup) for tag in (image, source)]
    return all(widths) and (widths[0] < widths[1] or (between and widths[0] == widths[1]))


def _widest(tag: Tag, lookup: FileLookup) -> int:
    """The widest file of a tag, px, going by the files, else by descriptors or the number in its name; 0 if nothing tells."""
    candidates = parse_srcset(value_of(tag, "srcset") or "")
    src = value_of(tag, "src") if tag.name == "img" else None
    return max([0, *(one.width or _width(one.url, lookup) for one in candidates), _width(src, lookup) if src else 0])


def _width(url: str, lookup: FileLookup) -> int:
    file = lookup(url)
    named = _NUMBER.findall(url.rsplit("/", 1)[-1])
    return file.width if file else int(named[-1]) if named else 0
