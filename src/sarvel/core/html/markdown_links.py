"""Links of Markdown, each address in its exact place.

[The boat](masters/boat.jpg "Larger")                                                 the author's
[The boat](/pictures/boat-1600.0f3c.jpg "Larger")<!--woven:masters/boat.jpg#MARK-->    the same, woven
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from sarvel.core.html.markdown import blanked, markdown_tags, read_markdown

# CommonMark 0.31, section 6.3: an address in angle brackets, or one without spaces and with balanced parentheses; a title.
_TARGET = re.compile(
    r"""\s*(?P<address><[^<>\r\n]*>|(?:[^\s()<>\\]|\([^\s()<>\\]*\))+)(?P<rest>(?:\s+(?:"[^"]*"|'[^']*'))?\s*\))"""
    r"(?:<!--woven:(?P<author>[^\r\n]*?)#(?P<mark>[0-9a-f]+)-->)?"
)
_BRACKET = re.compile(r"\\.|\]\(|!?\[|\]|\n[ \t>]*\r?\n", re.DOTALL)
_COMMENT = re.compile(r"<!--.*?-->", re.DOTALL)


@dataclass(frozen=True)
class MarkdownLink:
    """One link.

    Attributes:
        start: where its address begins, in the text.
        end: behind its parenthesis, and behind the comment of a woven one.
        address: as written.
        rest: the text from the address on to the parenthesis.
        author: the author's address, if it is woven.
        mark: the mark behind that.
        words: where the words of the link start and end.
    """

    start: int
    end: int
    address: str
    rest: str
    author: str | None
    mark: str | None
    words: tuple[int, int]


def markdown_links(page: str) -> Iterator[MarkdownLink]:
    """The links of a page with an address in parentheses, in order; none of code, comments and attributes."""
    tags = ((tag.start, tag.end) for tag in markdown_tags(page, None) if not tag.short)
    read = read_markdown(page)
    plain = read.plain
    comments = (found.span() for found in _COMMENT.finditer(plain))
    ends = [0, *(end for _, end in read.prose)]
    others = zip(ends, [*(start for start, _ in read.prose), len(page)], strict=True)
    plain = blanked(plain, [*tags, *comments]).partition("<!--")[0]  # a comment that is never closed would be, by ours
    plain = blanked(plain, list(others))
    open_: list[int] = []
    behind = 0  # the last link: brackets in its title are none
    for found in _BRACKET.finditer(plain):
        if found.start() < behind:
            continue
        if found[0].endswith("["):
            open_.append(found.end() if found[0] == "[" else -1)
        elif found[0].startswith("\n"):
            open_.clear()  # no link goes on in the next paragraph
        elif found[0].startswith("]") and open_:
            start = open_.pop()
            if len(found[0]) > 1 and start >= 0 and (link := link_at(page, found.end(), (start, found.start()))):
                behind = link.end
                open_.clear()  # CommonMark 0.31, section 6.3: links may not contain other links
                yield link


def link_at(text: str, at: int, words: tuple[int, int] = (0, 0)) -> MarkdownLink | None:
    """The link whose address begins at an offset, if one does."""
    found = _TARGET.match(text, at)
    if found is None:
        return None
    return MarkdownLink(
        found.start("address"), found.end(), found["address"], found["rest"], found["author"], found["mark"], words
    )


def bare(address: str) -> str:
    """An address without the angle brackets that it may be written in."""
    return address[1:-1] if address.startswith("<") else address
