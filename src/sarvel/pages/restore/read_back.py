"""Reading back: woven text must give every tag again, and leave everything around it as it was. Text in, text out."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from itertools import zip_longest

from sarvel.core.html.dialect import HTML, Dialect
from sarvel.notices import Notice
from sarvel.pages.restore.blocks import Block, blocks, replaced


def first_lost(
    page: str, found: Sequence[Block], woven_page: str, dialect: Dialect = HTML, *, mapped: bool = False
) -> Block | None:
    """The first block that is not restored from the woven text, or around which that reads differently; or None.

    On a damaged page, with an open quote perhaps, woven markup can change the meaning of everything that follows. So tags
    around the blocks are compared, too, and paragraphs with those of the author's page.

    Args:
        found: its blocks, all of them.
        mapped: as for `blocks`.
    """
    after = list(blocks(woven_page, dialect, mapped=mapped))
    at = _first_other(_taken_apart(page, found), _taken_apart(woven_page, after))
    if at is None and dialect.nests:
        at = _first_other(tags_around(page, found, dialect), tags_around(woven_page, after, dialect))
    if at is None and dialect.lines:
        author = replaced(page, [(one, one.tag) for one in found if not one.fault])
        at = None if dialect.outline(author) == dialect.outline(woven_page) else 0
    return None if at is None else found[min(at, len(found) - 1)]


def _taken_apart(text: str, found: Sequence[Block]) -> list[tuple[str, str, Notice | None]]:
    """For each block and the end of the text: the text before it, its author's tag, its fault."""
    ends = [0, *(block.end for block in found)]
    parts = [(text[end : block.start], block.tag, block.fault) for end, block in zip(ends, found, strict=False)]
    return [*parts, (text[ends[-1] :], "", None)]


def tags_around(text: str, found: Sequence[Block], dialect: Dialect) -> list[list[tuple[str, bool, int]]]:
    """The tags before each block and behind the last: name, whether it is an end tag, how far it is from the block before."""
    ends = [0, *(block.end for block in found)]
    starts = [*(block.start for block in found), sys.maxsize]
    parts: list[list[tuple[str, bool, int]]] = [[] for _ in starts]
    number = 0
    for tag in dialect.tags(text, None):
        while tag.start >= starts[number] and tag.start >= ends[number + 1]:
            number += 1
        if tag.start < starts[number]:
            parts[number].append((tag.name, tag.closing, tag.start - ends[number]))
    return parts


def _first_other(before: Sequence[object], after: Sequence[object]) -> int | None:
    """Number of the first in which two lists differ; None if they are the same."""
    pairs = zip_longest(before, after)
    return next((i for i, (one, other) in enumerate(pairs) if one != other), None)
