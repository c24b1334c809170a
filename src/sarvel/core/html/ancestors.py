"""The elements that tags of a page are in, as far as its text tells."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping

from sarvel.core.html.dialect import Dialect
from sarvel.core.html.tags import VOID, Tag

_DEEPEST = 512  # elements within each other; browsers let no page be deeper


def ancestors_of(text: str, dialect: Dialect, starts: Iterable[int]) -> Mapping[int, tuple[Tag, ...]]:
    """The start tags that are open at some offsets, from the outside inwards.

    End tags that HTML allows to omit (section 13.1.2.4) are not filled in: an element that is open too long has
    seldom a class that tells anything. An end tag closes all within its element, and nothing if that is not open.
    """
    wanted = sorted(set(starts))
    found: dict[int, tuple[Tag, ...]] = {}
    opened: list[Tag] = []
    counts: Counter[str] = Counter()
    at = 0
    for tag in dialect.tags(text, None):
        while at < len(wanted) and wanted[at] <= tag.start:
            found[wanted[at]] = tuple(opened[-_DEEPEST:])
            at += 1
        if tag.closing:
            ended = bool(counts[tag.name])
            while ended:
                last = opened.pop().name
                counts[last] -= 1
                ended = last != tag.name
        elif tag.name not in VOID and not text.startswith("/>", tag.end - 2):
            opened.append(tag)
            counts[tag.name] += 1
    found.update((start, tuple(opened[-_DEEPEST:])) for start in wanted[at:])
    return found
