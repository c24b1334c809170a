"""Images in Markdown, in their exact place.

Which lines are code, and which are text, a Markdown parser says; where an image stands within them is found here by the
rules of CommonMark 0.31, sections 6.1 (code spans), 6.4 (images) and 2.4 (backslash escapes).
"""

from __future__ import annotations

import bisect
import functools
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from sarvel.core.html.code import closing
from sarvel.core.html.tags import Names, Tag, read_tag, tags

if TYPE_CHECKING:
    from markdown_it import MarkdownIt

_FRONT = re.compile(r"\A(---|\+\+\+)[ \t]*\r?\n(?:.*?\n)?\1[ \t]*(?:\r?\n|\Z)", re.DOTALL)
_LINE = re.compile(r"[^\r\n]*(?:\r\n|\r|\n|\Z)")
_SPECIAL = re.compile(r"\\|`+|<|!\[")
_AUTOLINK = re.compile(r"<[A-Za-z][A-Za-z0-9+.-]{1,31}:[^\s<>]*>")
_COMMENT_END = re.compile(r"-->")
_RUN = re.compile(r"`+")
_BRACKET = re.compile(r"\\.|[\[\]]", re.DOTALL)
_SPACE = re.compile(r"\s*")
_DESTINATION = re.compile(r"<([^<>\n]*)>|((?:[^\s()<\\]|\\.|\([^\s()]*\))*)", re.DOTALL)
_TITLE = re.compile(
    r"""\s+(?:"((?:[^"\\]|\\.)*)"|'((?:[^'\\]|\\.)*)'|\(((?:[^()\\]|\\.)*)\))""",
    re.DOTALL,
)
_LABEL = re.compile(r"\[((?:[^\[\]\\]|\\.)*)\]")
_LONGEST_LABEL = 1000  # CommonMark 0.31, section 4.7: a link label has at most 999 characters
_MOST_OPEN_TAGS = 8  # of a stretch: after so many that never end, a `<` in it is text; each was looked for to the end


@dataclass(frozen=True)
class MarkdownImage:
    """An image in a Markdown text.

    Attributes:
        start: where its `!` is.
        end: just behind it.
        src: its destination, escapes resolved.
        alt: its description as plain text.
        title: its title; "" for none.
    """

    start: int
    end: int
    src: str
    alt: str
    title: str

    def moved(self, by: int) -> MarkdownImage:
        """The same in a text that begins so much earlier."""
        return replace(self, start=self.start + by, end=self.end + by)


@dataclass(frozen=True)
class Markdown:
    """A Markdown text, read.

    Attributes:
        plain: the text with spaces for whatever is code or front matter; as long, so that all offsets hold.
        images: its images, in order.
        stretches: where blocks of text and of HTML begin and end; no tag goes beyond its block.
    """

    plain: str
    images: tuple[MarkdownImage, ...]
    stretches: tuple[tuple[int, int], ...]

    def tags(self, only: Names | None) -> Iterator[Tag]:
        """The tags of the text of some names, in order; all for None."""
        for first, last in self.stretches:
            yield from (tag.moved(first) for tag in tags(self.plain[first:last], only=only))


def read_markdown(text: str) -> Markdown:
    """Finds code and images."""
    front = _FRONT.match(text)
    begin = front.end() if front else 0
    plain = _blanked(text, [(0, begin)])
    starts = [found.start() for found in _LINE.finditer(plain) if found.end() > found.start() or not plain] + [
        len(plain)
    ]
    env: dict[str, Any] = {}
    parsed = _parser().parse(re.sub(r"\r\n?", "\n", plain), env)
    code: list[tuple[int, int]] = []
    prose: list[tuple[int, int]] = []
    markup: list[tuple[int, int]] = []
    for token in parsed:
        kinds = {"fence": code, "code_block": code, "inline": prose, "table_open": prose, "html_block": markup}
        if token.map and token.type in kinds:
            first, last = (starts[min(line, len(starts) - 1)] for line in token.map)
            kinds[token.type].append((first, last))
    plain = _blanked(plain, code)
    images: list[MarkdownImage] = []
    code_spans: list[tuple[int, int]] = []
    at = 0
    for first, last in prose:
        if first >= at:
            read = _Stretch(plain[first:last], env.get("references", {}))
            read.scan()
            code_spans += [(first + start, first + end) for start, end in read.spans]
            images += [image.moved(first) for image in read.images]
            markup.append((first, last))
            at = last
    return Markdown(_blanked(plain, code_spans), tuple(images), tuple(sorted(markup)))


class _Stretch:
    """Code spans and images of one stretch of prose, in order; all offsets are within it.

    Attributes:
        spans: where code spans start and end.
        images: the images.
    """

    def __init__(self, text: str, references: Mapping[str, Mapping[str, str]]) -> None:
        self.spans: list[tuple[int, int]] = []
        self.images: list[MarkdownImage] = []
        self._text, self._references = text, references
        self._open_tags = 0

    def scan(self) -> None:
        """Fills in what there is."""
        at, text = 0, self._text
        while (found := _SPECIAL.search(text, at)) is not None:
            at, special = found.end(), found.group()
            if special == "\\":
                at += 1
            elif special[0] == "`":
                if (end := self._closing_run(at, len(special))) >= 0:
                    self.spans.append((found.start(), end))
                    at = end
            elif special == "<":
                at = self._past_markup(found.start())
            elif (image := self._image(found.start())) is not None:
                self.images.append(image)
                at = image.end

    @functools.cached_property
    def _runs(self) -> dict[int, list[int]]:
        """Where runs of backticks start, by their length."""
        runs: dict[int, list[int]] = {}
        for run in _RUN.finditer(self._text):
            runs.setdefault(len(run.group()), []).append(run.start())
        return runs

    @functools.cached_property
    def _brackets(self) -> dict[int, int]:
        """Where the bracket that opens at an offset is closed, by that offset; escaped ones are text."""
        closed: dict[int, int] = {}
        opened: list[int] = []
        for found in _BRACKET.finditer(self._text):
            if found.group() == "[":
                opened.append(found.start())
            elif found.group() == "]" and opened:
                closed[opened.pop()] = found.start()
        return closed

    def _closing_run(self, at: int, count: int) -> int:
        """End offset of the next run of so many backticks; -1 if there is none."""
        starts = self._runs.get(count, [])
        place = bisect.bisect_left(starts, at)
        return starts[place] + count if place < len(starts) else -1

    def _past_markup(self, at: int) -> int:
        """Behind a tag, comment or address in angle brackets; else behind the bracket."""
        text = self._text
        if found := _AUTOLINK.match(text, at):
            return found.end()
        if text.startswith("<!--", at):
            return max(at + 1, closing(text, at + 4, _COMMENT_END))
        tag = read_tag(text, at) if self._open_tags < _MOST_OPEN_TAGS else None
        self._open_tags += tag is None
        return tag.end if tag else at + 1

    def _image(self, start: int) -> MarkdownImage | None:
        """The image that begins at a `![`, if one does."""
        text, close = self._text, self._brackets.get(start + 1, -1)
        if close < 0:
            return None
        said = text[start + 2 : close]
        if target := _target(text, close + 1):
            end, src, title = target
            return MarkdownImage(start, end, _resolved(src), _alt(said), _resolved(title))
        label = _LABEL.match(text, close + 1)
        name = label.group(1) if label and label.group(1).strip() else said
        known = self._references.get(_normalized(name)) if len(name) < _LONGEST_LABEL else None
        if known is None:
            return None
        end = label.end() if label else close + 1
        return MarkdownImage(start, end, known["href"], _alt(said), known.get("title", ""))


def _target(text: str, at: int) -> tuple[int, str, str] | None:
    """Destination and title in parentheses, as written, and the end offset; None if there are none there."""
    if not text.startswith("(", at):
        return None
    found = _DESTINATION.match(text, _past(_SPACE, text, at + 1))
    if not found:
        return None
    src = found.group(1) if found.group(1) is not None else found.group(2)
    title = _TITLE.match(text, found.end())
    end = _past(_SPACE, text, title.end() if title else found.end())
    if not text.startswith(")", end):
        return None
    return end + 1, src, next((group for group in title.groups() if group is not None), "") if title else ""


def _past(pattern: re.Pattern[str], text: str, at: int) -> int:
    found = pattern.match(text, at)
    return found.end() if found else at


def _alt(said: str) -> str:
    parser = _parser()
    children = parser.parseInline(" ".join(said.split()))[0].children or []
    renderer: Any = parser.renderer
    return str(renderer.renderInlineAsText(children, parser.options, {}))


def _resolved(text: str) -> str:
    from markdown_it.common.utils import unescapeAll  # noqa: PLC0415 - slow to load, and few sites have Markdown

    return unescapeAll(text)


def _normalized(label: str) -> str:
    from markdown_it.common.utils import normalizeReference  # noqa: PLC0415 - as above

    return normalizeReference(label)


@functools.cache
def _parser() -> MarkdownIt:
    from markdown_it import MarkdownIt  # noqa: PLC0415 - as above

    return MarkdownIt("commonmark").enable("table")


def _blanked(text: str, spans: list[tuple[int, int]]) -> str:
    """The text with spaces for all within spans but line ends."""
    parts, at = [], 0
    for start, end in sorted(spans):
        if start >= at:
            parts += [text[at:start], re.sub(r"[^\r\n]", " ", text[start:end])]
            at = end
    return "".join([*parts, text[at:]])
