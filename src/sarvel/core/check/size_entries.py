"""Rules for sizes: entries that browsers drop, entries that never count, and viewports that none is for."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from sarvel.core.check.condition_slips import entry_spans, sizes_slips
from sarvel.core.check.order import living_order
from sarvel.core.check.rule import Finding
from sarvel.core.css.viewports import EVERY, NONE
from sarvel.core.html.document import Document, span_of, value_of
from sarvel.core.html.pieces import piece_edit, piece_span
from sarvel.core.html.sizes import SizeEntry, parse_sizes
from sarvel.core.html.srcset import parse_srcset
from sarvel.core.html.tags import Tag
from sarvel.core.html.template_code import holds_code


def check_sizes(page: Document) -> Iterator[Finding]:
    """Findings about sizes, and about lists without; template code is not judged."""
    for image in page.images:
        for tag in image.tags:
            srcset, sizes = value_of(tag, "srcset") or "", value_of(tag, "sizes")
            if not holds_code(srcset) and not holds_code(sizes or ""):
                yield from _of_tag(page.text, tag, srcset, sizes)


def _of_tag(text: str, tag: Tag, srcset: str, sizes: str | None) -> Iterator[Finding]:
    candidates = parse_srcset(srcset)
    by_width = any(one.width is not None for one in candidates)
    if by_width and sizes is None:
        yield Finding("widths-without-sizes", *span_of(tag, "srcset"), "this srcset has width descriptors and no sizes")
    if sizes is None:
        return
    if candidates and not by_width:
        yield Finding("sizes-without-widths", *span_of(tag, "sizes"), "sizes is next to candidates without widths")
    dropped = list(_dropped(text, tag, sizes))
    yield from dropped
    if by_width and not dropped:
        yield from _order_of(text, tag, sizes)


def _dropped(text: str, tag: Tag, sizes: str) -> Iterator[Finding]:
    for start, end, fault, slip in sizes_slips(sizes):
        if slip is None:
            where = piece_span(text, tag, "sizes", start, end)
            yield Finding("length-dropped", *where, f"browsers drop an entry of sizes: {fault}")
            continue
        edits = piece_edit(text, tag, "sizes", slip.start, slip.end, slip.text) if slip.sure else ()
        where = piece_span(text, tag, "sizes", *slip.marked)
        says = f"browsers drop an entry of sizes: {slip.says}"
        yield Finding("length-dropped", *where, says, f"Write {slip.meant.strip()}", edits)


def _order_of(text: str, tag: Tag, sizes: str) -> Iterator[Finding]:
    """Findings about entries that earlier ones leave nothing, and about viewports that no entry is for."""
    entries, spans = parse_sizes(sizes), entry_spans(sizes)
    dead = _dead(entries)
    if dead and len(spans) == len(entries):
        order = living_order(len(entries), lambda some: _dead([entries[i] for i in some]))
        pieces = [sizes[start:end] for start, end in spans]
        meant = ", ".join(pieces[i] for i in order or ())
        for i in dead:
            words = f"{pieces[i]} never counts: earlier entries match whenever it does"
            where = piece_span(text, tag, "sizes", *spans[i])
            edits = piece_edit(text, tag, "sizes", 0, len(sizes), meant) if order else ()
            yield Finding("entry-never-counts", *where, words, f"Write {meant}" if order else "", edits)
    if entries and all(entry.media.css for entry in entries):
        left = EVERY
        for entry in entries:
            left -= entry.media.test.can_hold
        if left := left.whole():
            words = f"at {left} no entry of sizes holds, so it is 100vw there"
            end = len(sizes.rstrip())
            edits = piece_edit(text, tag, "sizes", end, end, ", 100vw")
            yield Finding("sizes-end-open", *span_of(tag, "sizes"), words, "", edits)


def _dead(entries: Sequence[SizeEntry]) -> list[int]:
    """The places of entries that entries before them leave nothing."""
    covered, dead = NONE, []
    for i, entry in enumerate(entries):
        test = entry.media.test
        if test.can_hold and not test.can_hold - covered:
            dead.append(i)
        if entry.length is not None:  # auto is passed over by browsers that do not know it
            covered |= test.can_hold - test.can_fail
    return dead
