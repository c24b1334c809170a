"""Rules that a page allows to be broken: the attribute `data-sarvel-allow`, on a tag or for the whole page."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass

from sarvel.core.check.rule import Finding
from sarvel.core.html.document import Document, span_of, value_of
from sarvel.core.html.tags import Tag

ATTRIBUTE = "data-sarvel-allow"


@dataclass(frozen=True)
class _Allowed:
    """Rules that may be broken from one place of a page to another."""

    rules: frozenset[str]
    start: int
    end: int


def allowed_away(page: Document, found: list[Finding], rules: Collection[str]) -> list[Finding]:
    """Findings but for what the page allows; and names there that are no rule's.

    On a picture it holds for all in it, on an img for it and its sources, on html, head or body for the page.

    Args:
        rules: the names of all rules.
    """
    if ATTRIBUTE not in page.text:
        return found
    allowed = list(_allowed(page))
    left = [
        one
        for one in found
        if not any(one.rule in some.rules and some.start <= one.start and one.end <= some.end for some in allowed)
    ]
    return [*left, *_unknown(page, rules)]


def _allowed(page: Document) -> Iterator[_Allowed]:
    for frame in page.frames:
        yield _Allowed(_rules(frame), 0, len(page.text))
    for picture in page.pictures:
        yield _Allowed(_rules(picture.tag), picture.tag.start, picture.end)
    for image in page.images:
        yield from (_Allowed(_rules(image.tag), tag.start, tag.end) for tag in image.tags)
    for tag in (*_sources(page), *page.links, *page.styled):
        yield _Allowed(_rules(tag), tag.start, tag.end)


def _sources(page: Document) -> list[Tag]:
    return [*page.strays, *(tag for picture in page.pictures for tag in (*picture.sources, *picture.late))]


def _rules(tag: Tag) -> frozenset[str]:
    return frozenset((value_of(tag, ATTRIBUTE) or "").split())


def _unknown(page: Document, rules: Collection[str]) -> Iterator[Finding]:
    tags = [*page.frames, *(picture.tag for picture in page.pictures), *(image.tag for image in page.images)]
    for tag in dict.fromkeys((*tags, *_sources(page), *page.links, *page.styled)):
        for name in sorted(_rules(tag).difference(rules)):
            yield Finding("allows-no-rule", *span_of(tag, ATTRIBUTE), f"no rule is called '{name}'")
