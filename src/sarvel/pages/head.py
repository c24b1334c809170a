"""Preload links in a page's head: written where the author has put `<link data-sarvel="preloads">`.

<link data-sarvel="preloads">                                     the author's tag
<link data-sarvel="preloads" data-woven rel="preload" …>          the same; from data-woven on all is ours
<link data-woven rel="preload" …>                                 and whatever other links directly follow it
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from sarvel.core.html.dialect import Dialect
from sarvel.core.html.preload import Preload
from sarvel.core.html.tags import OURS, Tag, line_and_column
from sarvel.pages.blocks import escaped


@dataclass(frozen=True)
class Head:
    """A place for preload links.

    Attributes:
        start: where the author's tag, or what was woven from it, begins in the page.
        end: where it ends.
        tag: the author's tag.
        behind: where ours go within that.
        line: for messages, from 1.
        column: for messages, from 1.
        indent: the white space that its line begins with.
    """

    start: int
    end: int
    tag: str
    behind: int
    line: int
    column: int
    indent: str

    def woven(self, page: str, links: Sequence[Preload], dialect: Dialect) -> str:
        """What it becomes."""
        if not links:
            return self.tag
        first, *others = (_attributes(link, dialect) for link in links)
        written = [f"{self.tag[: self.behind]} {first}{self.tag[self.behind :]}"]
        end = " />" if dialect.closed else ">"
        line = "" if dialect.one_line else ("\r\n" if "\r\n" in page else "\n") + self.indent
        return line.join([*written, *(f"<link {other}{end}" for other in others)])


def heads(page: str, dialect: Dialect) -> Iterator[Head]:
    """All places for preload links, in order."""
    open_: Tag | None = None
    end = 0
    for tag in dialect.tags(page, OURS) if "preloads" in page else ():
        follows = tag.get("data-woven") is not None and tag.get("data-sarvel") is None
        if open_ and tag.name == "link" and follows and not page[end : tag.start].strip():
            end = tag.end
            continue
        if open_:
            yield _head(page, open_, end)
            open_ = None
        said = tag.get("data-sarvel")
        if tag.name == "link" and said and said.value == "preloads":
            open_, end = tag, tag.end
    if open_:
        yield _head(page, open_, end)


def _head(page: str, tag: Tag, end: int) -> Head:
    ours = next((i for i, one in enumerate(tag.attributes) if one.name == "data-woven"), len(tag.attributes))
    last, behind = tag.attributes[ours - 1].end, tag.attributes[-1].end
    author = page[tag.start : last] + page[behind : tag.end]
    before = page[max(page.rfind("\n", 0, tag.start), page.rfind("\r", 0, tag.start)) + 1 : tag.start]
    indent = before if not before.strip() else ""
    return Head(tag.start, end, author, last - tag.start, *line_and_column(page, tag.start), indent)


def _attributes(link: Preload, dialect: Dialect) -> str:
    srcset, sizes, priority = (
        ("imageSrcSet", "imageSizes", "fetchPriority")
        if dialect.camel
        else ("imagesrcset", "imagesizes", "fetchpriority")
    )
    said = {
        "rel": "preload",
        "as": "image",
        "type": link.type,
        "media": link.media,
        srcset: link.srcset,
        sizes: link.sizes,
        priority: "high",
    }
    mark = 'data-woven=""' if dialect.closed else "data-woven"
    return " ".join([mark, *(f'{name}="{escaped(value)}"' for name, value in said.items() if value)])
