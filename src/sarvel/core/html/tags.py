"""Tags of a page in their exact place. The page is never parsed into a tree or rebuilt: its text is what counts.

Follows the tokenizer of the HTML standard (section 13.2.5) as far as tags and attributes go; the content of comments,
scripts, styles and other raw text is no tag. Template code is passed over whole, between tags and within them.
"""

from __future__ import annotations

import bisect
import functools
import html
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import NamedTuple

from sarvel.core.html.template_code import Beyond, closing, marked_code, raw_or_marked_code

# HTML, section 13.2.6.4: elements whose content the tokenizer does not read as tags. `noscript` is not among them:
# its images are what browsers without scripts fetch.
_RAW = frozenset({"script", "style", "textarea", "title", "xmp", "iframe", "noembed", "noframes", "plaintext"})

VOID = frozenset(
    {"area", "base", "br", "col", "embed", "hr", "img", "input", "link", "meta", "param", "source", "track", "wbr"}
)
"""Elements that have no content and no end tag: HTML, section 13.1.2; `param` by section 13.2.6.4.7."""

_OPENING = re.compile(r"<(/?)([A-Za-z](?:[^\s/>{<]|\{(?![{%#]))*)")
# A tag without code and faults: most tags, and quick to skip. No part of it can be read
# in two ways, so that a text which is no such tag is given up after one look.
_SIMPLE_NAME = r"""[A-Za-z][^\s/>{<"'=@]*"""
_SIMPLE_REST = r"""(?:\s+[^\s"'<>{}=@`/]+(?:=(?:"[^"{<]*"|'[^'{<]*'|[^\s"'<>{}=@`]+))?)*\s*/?>"""
# An attribute without code and faults, in any dialect, and quick to read.
_SIMPLE_ATTRIBUTE = re.compile(
    r"""\s+([^\s"'$<>{}=@`/]+)"""
    r"""(?:=(?:"([^"'$<{@]*)"(?=[\s/>])|'([^"'$<{@]*)'(?=[\s/>])|([^\s"'$<>{}=@`/]+)(?=[\s>]))|(?=\s*[/>]|\s+[^\s=/>]))"""
)
_SPACE = re.compile(r"[\s/]*")
_NAME = re.compile(r"[^\s/>={<][^\s/>={<]*|[={<]")
_EQUALS = re.compile(r"\s*=\s*")
_UNQUOTED = re.compile(r"""[^\s>"'{<]+|["'{<]""")
_WITHIN = {'"': re.compile(r"""[^"'{<@]*"""), "'": re.compile(r"[^'{<@]*")}
_COMMENT_END = re.compile(r"--!?>")
_SECTION_END = re.compile(r"\]\]>")
_STOP = r"\{[{%#]|@verbatim\b"
_LINE_END = re.compile(r"\r\n|\r|\n")


@dataclass(frozen=True)
class Wanted:
    """The elements that a reader looks for.

    Attributes:
        names: in lower case.
        whole: names of elements within which every element is looked for; they must be among the names.
    """

    names: frozenset[str]
    whole: frozenset[str] = frozenset()


class Attribute(NamedTuple):
    """One attribute of a tag: a tuple, since a page has tens of thousands.

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
        return html.unescape(self.raw) if self.raw and "&" in self.raw else self.raw or ""


@dataclass(frozen=True)
class Tag:
    """One tag of a page.

    Attributes:
        name: in lower case.
        closing: whether it is an end tag.
        attributes: in the order written; of two with one name the first counts.
        start: where its `<` is, in the text.
        end: just behind its `>`.
        short: whether it is written in the short form that its dialect has for images, which cannot hold a size.
        one_line: whether it must stay within its line.
        paragraph_of: of how many images, and nothing else, the paragraph consists that it is in; 0 where it is not one such.
    """

    name: str
    closing: bool
    attributes: tuple[Attribute, ...]
    start: int
    end: int
    short: bool = False
    one_line: bool = False
    paragraph_of: int = 0

    def moved(self, by: int) -> Tag:
        """The same tag with all offsets moved."""
        attributes = tuple(one._replace(start=one.start + by, end=one.end + by) for one in self.attributes)
        return replace(self, attributes=attributes, start=self.start + by, end=self.end + by)

    def get(self, name: str) -> Attribute | None:
        """The attribute of that name, which is given in lower case."""
        known: Mapping[str, Attribute] | None = self.__dict__.get("_by_name")
        if known is None:  # not a cached_property, which in Python 3.11 takes a lock each time
            known = {attribute.name.lower(): attribute for attribute in reversed(self.attributes)}
            self.__dict__["_by_name"] = known
        return known.get(name)

    def values(self) -> Mapping[str, str]:
        """The values of its attributes, by name in lower case."""
        return self._values

    @functools.cached_property
    def _values(self) -> Mapping[str, str]:
        values: dict[str, str] = {}
        for attribute in self.attributes:
            values.setdefault(attribute.name.lower(), attribute.value)
        return MappingProxyType(values)


def tags(
    text: str,
    start: int = 0,
    *,
    only: Wanted | None = None,
    inside: bool = False,
    code: Beyond = marked_code,
    skip: Beyond = raw_or_marked_code,
    stop: str = _STOP,
) -> Iterator[Tag]:
    """The tags of a page, in order. Text that only looks like one is passed over.

    Args:
        only: the elements to look for; None for all.
        inside: whether the text begins within an element whose tags are all wanted.
        code: passes over template code within a tag.
        skip: skips text between tags that is not part of the page.
        stop: a pattern of where something to skip may begin.
    """
    every, wanted = _places(stop, None), _places(stop, only.names if only else None)
    at = start
    while found := (every if inside else wanted).search(text, at):
        at = found.start()
        if text[at] != "<":
            at = max(skip(text, at), at + 1)
            continue
        name, end = (found["name"] or "").lower(), found.end()
        if not name or only is None or inside or name in only.names:
            tag = read_tag(text, at, code)
            if tag is None and _OPENING.match(text, at):
                return  # a tag that never ends, an open quote perhaps: a browser drops all the rest
            if tag is None:
                at = _beyond(text, at, skip)
                continue
            name, end = tag.name, tag.end
            if only is None or inside or name in only.names:
                yield tag
            if only is not None and name in only.whole:
                inside = not tag.closing
        at = _raw_end(text, end, name) if name in _RAW and text[at + 1] != "/" else end


@functools.cache
def _places(stop: str, names: frozenset[str] | None) -> re.Pattern[str]:
    """Finds the next simple tag, or place to look at; if some names are wanted, no simple tag of others whose content is tags."""
    passed = ""
    if names is not None:
        kept = "|".join(map(re.escape, sorted(names | _RAW)))
        passed = rf"(?!/?(?!(?i:{kept})[\s/>]){_SIMPLE_NAME}{_SIMPLE_REST})"
    return re.compile(rf"<{passed}(?:/?(?P<name>{_SIMPLE_NAME}){_SIMPLE_REST})?|{stop}")


def _raw_end(text: str, at: int, name: str) -> int:
    """Offset of the end tag of an element of raw text; the end of the text if it is missing."""
    found = re.compile(rf"</{re.escape(name)}(?=[\s/>])", re.IGNORECASE).search(text, at)
    return found.start() if found else len(text)


def read_tag(text: str, at: int, code: Beyond = marked_code) -> Tag | None:
    """The tag that begins at this `<`; None if none begins there, or it never ends."""
    opening = _OPENING.match(text, at)
    if not opening:
        return None
    attributes: list[Attribute] = []
    end = opening.end()
    while True:
        while simple := _SIMPLE_ATTRIBUTE.match(text, end):
            name, double, single, bare = simple.groups()
            raw = double if double is not None else single if single is not None else bare
            end = simple.end()
            attributes.append(Attribute(name, raw, simple.start(1), end))
        end = _spaces(text, end)
        if end >= len(text):
            return None
        if text[end] == ">":
            return Tag(opening.group(2).lower(), bool(opening.group(1)), tuple(attributes), at, end + 1)
        name_end = _name(text, end, code)
        equals = _EQUALS.match(text, name_end)
        if equals is None:
            if code(text, end) != name_end:  # code alone is no one's attribute
                attributes.append(Attribute(text[end:name_end], None, end, name_end))
            end = name_end
            continue
        value = _value(text, equals.end(), code)
        if value is None:
            return None
        raw, value_end = value
        if value_end == equals.end() and not raw:  # an equals sign, and then the tag ends
            attributes.append(Attribute(text[end:name_end], None, end, name_end))
            end = max(name_end, equals.end())
            continue
        attributes.append(Attribute(text[end:name_end], raw, end, value_end))
        end = value_end


def _spaces(text: str, at: int) -> int:
    found = _SPACE.match(text, at)
    return found.end() if found else at


def _name(text: str, at: int, code: Beyond) -> int:
    """End offset of an attribute's name, which may be code or hold some; at least one letter on."""
    end = max(code(text, at), at)
    if end == at:
        found = _NAME.match(text, at)
        end = found.end() if found else at + 1
    while end < len(text) and text[end] not in "\t\n\f\r />=":
        further = code(text, end)
        if further == end:
            found = _NAME.match(text, end)
            further = found.end() if found else end + 1
        end = further
    return end


def _value(text: str, at: int, code: Beyond) -> tuple[str, int] | None:
    """An attribute's value without quotes, and where it ends with them; None if its quote is never closed."""
    quote = text[at : at + 1]
    if quote not in ('"', "'") or not quote:
        end = at
        while end < len(text) and not text[end].isspace() and text[end] != ">":
            further = code(text, end)
            if further > end and text.startswith("/>", further):  # code makes up the rest
                return text[at:further], further
            if further == end:
                found = _UNQUOTED.match(text, end)
                further = found.end() if found else end + 1
            end = further
        return text[at:end], end
    within, end = _WITHIN[quote], at + 1
    while True:
        found = within.match(text, end)
        end = found.end() if found else end
        if end >= len(text):
            return None
        if text[end] == quote:
            return text[at + 1 : end], end + 1
        end = max(code(text, end), end + 1)


def _beyond(text: str, at: int, skip: Beyond) -> int:
    """Offset at which reading continues after a `<` that opens no tag."""
    if text.startswith("<!--", at):
        if text.startswith(("<!-->", "<!--->"), at):
            return text.index(">", at) + 1
        found = _COMMENT_END.search(text, at + 4)
        return found.end() if found else len(text)
    if text.startswith("<![CDATA[", at) and (end := closing(text, at, _SECTION_END)) >= 0:
        return end
    if (end := skip(text, at)) > at:
        return end
    if text.startswith(("<!", "</"), at):
        end = text.find(">", at)
        return end + 1 if end >= 0 else len(text)
    return at + 1


@functools.lru_cache(maxsize=16)
def _line_starts(text: str) -> list[int]:
    """Offsets at which the lines of a text start."""
    return [0, *(found.end() for found in _LINE_END.finditer(text))]


COMPONENT = "SarvelPicture"
"""What a woven script calls in place of an img; see `pages.restore.component_tags`."""


def is_call(tag: Tag) -> bool:
    """Tells whether a tag calls that component."""
    return tag.name == COMPONENT.lower()


def classes_of(tag: Tag) -> list[str]:
    """The classes of an element, of a component too."""
    values = tag.values()
    return values.get("class", values.get("classname", "")).split()


def words_of(tag: Tag) -> str | None:
    """What names the file of an img: an address, or the code that a component framework computes it by, in braces."""
    if src := tag.get("src"):
        return src.value
    return next((f"{{{found.value}}}" for name in (":src", "v-bind:src") if (found := tag.get(name))), None)


def line_and_column(text: str, at: int) -> tuple[int, int]:
    """Line and column of an offset, both from 1; lines end at LF, CR or CRLF."""
    starts = _line_starts(text)
    line = bisect.bisect_right(starts, at)
    return line, at - starts[line - 1] + 1


def line_around(text: str, at: int) -> tuple[int, int]:
    """Offsets where the line of an offset starts and ends, its line end not counted."""
    starts = _line_starts(text)
    line = bisect.bisect_right(starts, at)
    end = starts[line] if line < len(starts) else len(text)
    while end > starts[line - 1] and text[end - 1] in "\r\n":
        end -= 1
    return starts[line - 1], end


def line_end(text: str) -> str:
    """The line end of a text, by its first line; LF if there is only one."""
    starts = _line_starts(text)
    if len(starts) == 1:
        return "\n"
    return "\r\n" if text[: starts[1]].endswith("\r\n") else text[starts[1] - 1]
