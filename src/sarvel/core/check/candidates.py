"""Rules for srcset and sizes: what browsers drop, and what they take for something else."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence

from sarvel.core.check.context import FileLookup
from sarvel.core.check.rule import Finding
from sarvel.core.css.viewports import EVERY, NONE
from sarvel.core.html.document import Document, span_of, value_of
from sarvel.core.html.images import is_file_name
from sarvel.core.html.sizes import SizeEntry, parse_sizes
from sarvel.core.html.srcset import Candidate, parse_srcset
from sarvel.core.html.tags import Tag
from sarvel.core.html.template_code import holds_code


def check_candidates(page: Document, lookup: FileLookup) -> Iterator[Finding]:
    """Findings about candidates and sizes; template code is not judged."""
    for image in page.images:
        for tag in (*image.sources, image.tag):
            srcset, sizes = value_of(tag, "srcset"), value_of(tag, "sizes")
            if holds_code(srcset or "") or holds_code(sizes or ""):
                continue
            candidates = parse_srcset(srcset or "")
            yield from _of_srcset(tag, candidates, lookup)
            yield from _of_sizes(tag, candidates, sizes)


def _of_srcset(tag: Tag, candidates: list[Candidate], lookup: FileLookup) -> Iterator[Finding]:
    where = span_of(tag, "srcset")
    if words := torn(candidates, lookup):
        yield Finding("address-not-escaped", *where, words)
        return
    known: dict[tuple[str, float], str] = {}
    for one in candidates:
        if one.fault:
            yield Finding("candidate-dropped", *where, f"browsers drop {one.url or 'a candidate'}: {one.fault}")
            continue
        descriptor = ("w", one.width) if one.width is not None else ("x", 1.0 if one.density is None else one.density)
        if descriptor in known:
            words = f"{one.url} has the descriptor of {known[descriptor]}, {descriptor[1]:g}{descriptor[0]}"
            yield Finding("descriptors-alike", *where, words)
        known.setdefault(descriptor, one.url)
    kinds = {kind for kind, _ in known}
    if len(kinds) > 1:
        yield Finding("widths-and-densities-mixed", *where, "this srcset has width descriptors and others")


def torn(candidates: Sequence[Candidate], lookup: FileLookup) -> str:
    """The letter that tears an address in two, in words: a space, or a comma before a space; "" for none."""
    for one in candidates:
        halves = [text for text in one.descriptors if _named(text)] if one.fault else []
        if halves:
            return f"a space ends the address {one.url}, before {halves[-1]}"
    for one, follower in itertools.pairwise(candidates):
        whole = not one.descriptors and not _named(one.url) and _named(follower.url)
        if whole and ((file := lookup(one.url)) is None or file.missing) and "/" not in follower.url:
            return f"a comma ends the address {one.url}, before {follower.url}"
    return ""


def _named(url: str) -> bool:
    return is_file_name(url.split("?", 1)[0].rsplit("/", 1)[-1])


def _of_sizes(tag: Tag, candidates: list[Candidate], sizes: str | None) -> Iterator[Finding]:
    by_width = any(one.width is not None for one in candidates)
    if by_width and sizes is None:
        yield Finding("widths-without-sizes", *span_of(tag, "srcset"), "this srcset has width descriptors and no sizes")
    if sizes is None:
        return
    if candidates and not by_width:
        yield Finding("sizes-without-widths", *span_of(tag, "sizes"), "sizes stands beside candidates without widths")
    for entry in parse_sizes(sizes):
        if entry.fault:
            yield Finding("length-dropped", *span_of(tag, "sizes"), f"browsers drop an entry of sizes: {entry.fault}")
        elif entry.media.css and not entry.media.test.can_hold:
            words = f"an entry of sizes counts nowhere: {entry.media.css} never holds"
            yield Finding("length-dropped", *span_of(tag, "sizes"), words)
    if by_width:
        yield from _order_of(tag, [entry for entry in parse_sizes(sizes) if not entry.fault])


def _order_of(tag: Tag, entries: list[SizeEntry]) -> Iterator[Finding]:
    """Findings about entries of sizes that earlier ones leave nothing, and about viewports that none is for."""
    covered = NONE
    for entry in entries:
        test = entry.media.test
        if test.can_hold and not test.can_hold - covered:
            length = entry.length.css if entry.length else "auto"
            words = f"{f'{entry.media.css} {length}'.strip()} never counts: entries before it hold wherever it does"
            yield Finding("entry-never-counts", *span_of(tag, "sizes"), words)
        if entry.length is not None:  # auto is passed over by browsers that do not know it
            covered |= test.can_hold - test.can_fail
    if entries and all(entry.media.css for entry in entries):
        left = EVERY
        for entry in entries:
            left -= entry.media.test.can_hold
        if left := left.whole():
            words = f"at {left} no entry of sizes holds, so it is 100vw there"
            yield Finding("sizes-end-open", *span_of(tag, "sizes"), words)
