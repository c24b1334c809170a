"""Rules for srcset and sizes: what browsers drop, and what they take for something else."""

from __future__ import annotations

from collections.abc import Iterator

from sarvel.core.check.page import Page, place, said
from sarvel.core.check.rule import Finding
from sarvel.core.html.code import holds_code
from sarvel.core.html.sizes import parse_sizes
from sarvel.core.html.srcset import Candidate, parse_srcset
from sarvel.core.html.tags import Tag


def check_candidates(page: Page) -> Iterator[Finding]:
    """All findings about candidates and sizes; what a template engine writes is not judged."""
    for image in page.images:
        for tag in (*image.sources, image.tag):
            srcset, sizes = said(tag, "srcset"), said(tag, "sizes")
            if holds_code(srcset or "") or holds_code(sizes or ""):
                continue
            candidates = parse_srcset(srcset or "")
            yield from _of_srcset(tag, candidates)
            yield from _of_sizes(tag, candidates, sizes, lazy=said(image.tag, "loading") == "lazy")


def _of_srcset(tag: Tag, candidates: list[Candidate]) -> Iterator[Finding]:
    where = place(tag, "srcset")
    known: dict[tuple[str, float], str] = {}
    for one in candidates:
        if one.fault:
            yield Finding("candidate-dropped", *where, f"browsers drop {one.url or 'a candidate'}: {one.fault}")
            continue
        descriptor = ("w", one.width) if one.width is not None else ("x", one.density or 1.0)
        if descriptor in known:
            words = f"{one.url} has the descriptor of {known[descriptor]}, {descriptor[1]:g}{descriptor[0]}"
            yield Finding("descriptors-alike", *where, words)
        known.setdefault(descriptor, one.url)
    kinds = {kind for kind, _ in known}
    if len(kinds) > 1:
        yield Finding("widths-and-densities-mixed", *where, "this srcset has width descriptors and others")


def _of_sizes(tag: Tag, candidates: list[Candidate], sizes: str | None, *, lazy: bool) -> Iterator[Finding]:
    by_width = any(one.width is not None for one in candidates)
    if by_width and sizes is None and not lazy:
        yield Finding("widths-without-sizes", *place(tag, "srcset"), "this srcset has width descriptors and no sizes")
    if sizes is None:
        return
    if candidates and not by_width:
        yield Finding("sizes-without-widths", *place(tag, "sizes"), "sizes stands beside candidates without widths")
    for entry in parse_sizes(sizes):
        if entry.fault:
            yield Finding("length-dropped", *place(tag, "sizes"), f"browsers drop an entry of sizes: {entry.fault}")
