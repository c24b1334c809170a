"""Tags of a page in their exact place. The page is never parsed into a tree or rebuilt: its text is what counts.

Follows the tokenizer of the HTML standard (section 13.2.5) as far as tags and attributes go; what stands in comments,
scripts, styles and other raw text is no tag.
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterator
from dataclasses import dataclass

# HTML, section 13.2.6.4: elements whose content the tokenizer does not read as tags. `noscript` is not among them:
# its images are what browsers without scripts fetch.
_RAW = frozenset({"script", "style", "textarea", "title", "xmp", "iframe", "noembed", "noframes", "plaintext"})

_OPENING = re.compile(r"<(/?)([A-Za-z][^\s/>]*)")
_ATTRIBUTE = re.compile(r"""[\s/]*([^\s/>][^\s/>=]*)(\s*=\s*(?:"([^"]*)"|'([^']*)'|([^\s>"'][^\s>]*)))?""")
_OPEN_QUOTE = re.compile(r"""\s*=\s*["']""")
_CLOSING = re.compile(r"[\s/]*>")
_COMMENT_END = re.compile(r"--!?>")


@dataclass(frozen=True)
class Attribute:
    """One attribute of a tag.

    Attributes:
        name: as written.
        raw: its value as written, without quotes; None where it has none.
        start: where its name begins, in the text.
        end: where it ends, quotes included.
    """

    name: str
    raw: str | None
    start: int
    end: int

    @property
    def value(self) -> str:
        """Its value with character references resolved; "" where it has none."""
        return html.unescape(self.raw or "")


@dataclass(frozen=True)
class Tag:
    """One tag of a page.

    Attributes:
        name: in lower case.
        closing: whether it is an end tag.
        attributes: in the order written; of two with one name the first counts.
        start: where its `<` is, in the text.
        end: just behind its `>`.
    """

    name: str
    closing: bool
    attributes: tuple[Attribute, ...]
    start: int
    end: int

    def get(self, name: str) -> Attribute | None:
        """The attribute of that name, which is given in lower case."""
        return next((attribute for attribute in self.attributes if attribute.name.lower() == name), None)


def tags(text: str, start: int = 0) -> Iterator[Tag]:
    """All tags of a page, in order. Text that only looks like one is passed over."""
    at = text.find("<", start)
    while at >= 0:
        tag = read_tag(text, at)
        if tag is None:
            if _OPENING.match(text, at):
                return  # a tag that never ends, an open quote perhaps: a browser drops all the rest
            at = text.find("<", _beyond(text, at))
            continue
        yield tag
        end = tag.end
        if tag.name in _RAW and not tag.closing:
            found = re.compile(rf"</{re.escape(tag.name)}(?=[\s/>])", re.IGNORECASE).search(text, end)
            end = found.start() if found else len(text)
        at = text.find("<", end)


def read_tag(text: str, at: int) -> Tag | None:
    """The tag that begins at this `<`, or None if there is none or it never ends."""
    opening = _OPENING.match(text, at)
    if not opening:
        return None
    attributes, end = [], opening.end()
    while not (closing := _CLOSING.match(text, end)):
        found = _ATTRIBUTE.match(text, end)
        if not found or (found.group(2) is None and _OPEN_QUOTE.match(text, found.end())):
            return None
        raw = next((group for group in found.group(3, 4, 5) if group is not None), None)
        attributes.append(Attribute(found.group(1), raw, found.start(1), found.end()))
        end = found.end()
    return Tag(opening.group(2).lower(), bool(opening.group(1)), tuple(attributes), at, closing.end())


def _beyond(text: str, at: int) -> int:
    """Where reading goes on behind a `<` that opens no tag."""
    if text.startswith("<!--", at):
        if text.startswith(("<!-->", "<!--->"), at):
            return text.index(">", at) + 1
        found = _COMMENT_END.search(text, at + 4)
        return found.end() if found else len(text)
    if text.startswith("<?", at):  # a template engine's code runs to ?>, whatever > it holds
        end = text.find("?>", at)
        return end + 2 if end >= 0 else at + 1
    if text.startswith(("<!", "</"), at):
        end = text.find(">", at)
        return end + 1 if end >= 0 else len(text)
    return at + 1


def line_and_column(text: str, at: int) -> tuple[int, int]:
    """Where an offset lies for a human, both counted from 1; lines end at LF, CR or CRLF."""
    before = text[:at].replace("\r\n", "\n").replace("\r", "\n")
    return before.count("\n") + 1, len(before) - (before.rfind("\n") + 1) + 1
