"""Preload links in a page's head: written where the author has put `<link data-sarvel="preloads">`.

<link data-sarvel="preloads">                                     the author's tag
<link data-sarvel="preloads" data-woven="…" rel="preload" …>      the same; from data-woven on all is ours
<link data-woven rel="preload" …>                                 and other links that directly follow it

The value of the first `data-woven` tells whether anyone changed them since, as the mark of a block does (see `marks`).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from sarvel.core.html.dialect import Dialect
from sarvel.core.html.master_attribute import MARK
from sarvel.core.html.tags import Tag, Wanted, line_and_column, read_tag
from sarvel.core.markup.preload import Preload
from sarvel.core.quoted import escaped
from sarvel.notices import Kind, Notice
from sarvel.pages.restore.marks import digest_of

_LINKS = Wanted(frozenset({"link", "img", "picture"}))  # what directly follows a link may be another, or something else
_EDITED = Notice(
    Kind.IMAGE,
    "",
    "preload links that are woven here were changed by hand, and stay as they are",
    'take that change out again, or put your own <link data-sarvel="preloads"> here',
)


@dataclass(frozen=True)
class PreloadPlace:
    """A place for preload links.

    Attributes:
        start: where the author's tag, or its woven block, begins in the page.
        line: for messages, from 1.
        column: for messages, from 1.
        indent: the white space that its line begins with.
        fault: why it cannot be woven; None where it can.
    """

    start: int
    end: int
    tag: str
    behind: int
    line: int
    column: int
    indent: str
    fault: Notice | None = None

    def woven(self, page: str, links: Sequence[Preload], dialect: Dialect) -> str:
        """The text that it becomes."""
        if not links:
            return self.tag
        first, *others = (_attributes(link, dialect) for link in links)
        mark = digest_of([_told(f"<link {one}>") for one in (first, *others)])
        written = [f'{self.tag[: self.behind]} {MARK}="{mark}" {first}{self.tag[self.behind :]}']
        begin = f'<link {MARK}=""' if dialect.closed else f"<link {MARK}"
        end = " />" if dialect.closed else ">"
        line = "" if dialect.one_line else ("\r\n" if "\r\n" in page else "\n") + self.indent
        return line.join([*written, *(f"{begin} {other}{end}" for other in others)])


def _told(link: str | Tag, start: int = 0) -> str:
    """The attributes of a link from one on, as text."""
    tag = read_tag(link, 0) if isinstance(link, str) else link
    return "\0".join(f"{one.name.lower()}={one.value}" for one in tag.attributes[start:]) if tag else ""


def preload_places(page: str, dialect: Dialect) -> Iterator[PreloadPlace]:
    """All places for preload links, in order."""
    open_: list[Tag] = []  # the author's link and those of ours that follow it
    for tag in dialect.tags(page, _LINKS) if "preloads" in page else ():
        follows = tag.get("data-woven") is not None and tag.get("data-sarvel") is None
        if open_ and tag.name == "link" and follows and not page[open_[-1].end : tag.start].strip():
            open_.append(tag)
            continue
        if open_:
            yield _place(page, open_)
            open_ = []
        said = tag.get("data-sarvel")
        if tag.name == "link" and said and said.value == "preloads":
            open_ = [tag]
    if open_:
        yield _place(page, open_)


def _place(page: str, links: Sequence[Tag]) -> PreloadPlace:
    tag = links[0]
    ours = next((i for i, one in enumerate(tag.attributes) if one.name == MARK), len(tag.attributes))
    last, behind = tag.attributes[ours - 1].end, tag.attributes[-1].end
    author = page[tag.start : last] + page[behind : tag.end]
    before = page[max(page.rfind("\n", 0, tag.start), page.rfind("\r", 0, tag.start)) + 1 : tag.start]
    indent = before if not before.strip() else ""
    told = [_told(tag, ours + 1), *(_told(link, 1) for link in links[1:])]
    is_edited = ours < len(tag.attributes) and tag.attributes[ours].value != digest_of(told)
    fault = _EDITED if is_edited or (ours == len(tag.attributes) and len(links) > 1) else None
    position = line_and_column(page, tag.start)
    return PreloadPlace(tag.start, links[-1].end, author, last - tag.start, *position, indent, fault)


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
    return " ".join(f'{name}="{escaped(value)}"' for name, value in said.items() if value)
