"""Images in Markdown, each in its exact place, as tags like those of HTML.

A Markdown parser tells which lines are code and which are text. Where an image is within the text is found here by the
rules of CommonMark 0.31: sections 2.4 (backslash escapes), 6.1 (code spans), 6.4 (images) and 6.6 (raw HTML).
"""

from __future__ import annotations

import bisect
import functools
import heapq
import html
import itertools
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from sarvel.core.html.front_matter import front_matter_end
from sarvel.core.html.markdown_call import call_tags
from sarvel.core.html.tags import COMPONENT, Attribute, Tag, Wanted, read_tag, tags
from sarvel.core.html.template_code import closing

if TYPE_CHECKING:
    from markdown_it import MarkdownIt
    from markdown_it.token import Token

_LINE = re.compile(r"[^\r\n]*(?:\r\n|\r|\n|\Z)")
_SPECIAL = re.compile(r"\\|`+|<|!\[")
_IN_LABEL = re.compile(r"\\|`+|<|[\[\]]")
_AUTOLINK = re.compile(r"<[A-Za-z][A-Za-z0-9+.-]{1,31}:[^\s<>]*>")
_COMMENT_END = re.compile(r"-->")
_RUN = re.compile(r"`+")
_EXPRESSION = re.compile(r"\{[^{}]*\}")
_LINE_OF_TAGS = re.compile(r"\s*(?:</?[A-Za-z](?:[^<>\"'{]|\"[^\"]*\"|'[^']*'|\{[^{}]*\})*>\s*)+")
_SPACE = re.compile(r"\s*")
_LABEL = re.compile(r"\[((?:[^\[\]\\]|\\.)*)\]")
_LONGEST_LABEL = 1000  # CommonMark 0.31, section 4.7: a link label has at most 999 characters
_MOST_OPEN_TAGS = 8  # of a stretch: after so many that never end, a `<` in it is text; each was looked for to the end


@dataclass(frozen=True)
class Markdown:
    """A Markdown text, read.

    Attributes:
        plain: the text with spaces for code, images and front matter; of the same length, so that all offsets hold.
        images: its images, in order, as img tags that are marked as short.
        stretches: start and end offsets of blocks of text and of HTML; no tag crosses the end of its block.
        prose: start and end offsets of those of text alone.
        outline: its paragraphs, lists, blocks of HTML and so on, by what each begins and ends with, in order.
    """

    plain: str
    images: tuple[Tag, ...]
    stretches: tuple[tuple[int, int], ...]
    prose: tuple[tuple[int, int], ...]
    outline: tuple[str, ...]


def markdown_tags(text: str, only: Wanted | None) -> Iterator[Tag]:
    """Yields the tags of a Markdown text in order, among them its own images and calls of partials.

    Args:
        only: the elements to look for; None for all.
    """
    read = read_markdown(text)
    images = read.images if only is None or "img" in only.names else ()
    calls = call_tags(read.plain) if only is None or COMPONENT.lower() in only.names else ()
    return heapq.merge(_html_tags(read, only), images, calls, key=lambda tag: tag.start)


def _html_tags(read: Markdown, only: Wanted | None) -> Iterator[Tag]:
    """Yields the tags of HTML within a Markdown text. An element may be closed in a later block than it is opened in."""
    inside = False
    for first, last in read.stretches:
        for tag in tags(read.plain[first:last], only=only, inside=inside):
            if only is not None and tag.name in only.whole:
                inside = not tag.closing
            yield tag.moved(first)


@functools.lru_cache(maxsize=8)  # a page is read for its images, its preload links, and once more when it is woven
def read_markdown(text: str, *, components: bool = False) -> Markdown:
    """Finds the code and the images of a Markdown text.

    Args:
        components: whether it is Markdown with components, which has neither code by indentation nor blocks of HTML.
    """
    begin = front_matter_end(text)
    plain = blanked(text, [(0, begin)])
    starts = [found.start() for found in _LINE.finditer(plain) if found.end() > found.start() or not plain] + [
        len(plain)
    ]
    env: dict[str, Any] = {}
    parsed = _parser(components=components).parse(re.sub(r"\r\n?", "\n", plain), env)
    code: list[tuple[int, int]] = []
    prose: list[tuple[int, int]] = []
    markup: list[tuple[int, int]] = []
    of_images: dict[int, list[int]] = {}  # by start offset of a paragraph; those of a tight list are none
    for before, token in zip([None, *parsed], parsed, strict=False):
        kinds = {"fence": code, "code_block": code, "inline": prose, "table_open": prose, "html_block": markup}
        if token.map and token.type in kinds:
            first, last = (starts[min(line, len(starts) - 1)] for line in token.map)
            kinds[token.type].append((first, last))
            if before and before.type == "paragraph_open" and not before.hidden:
                of_images[first] = _image_counts(token)
    plain = blanked(plain, code)
    images: list[Tag] = []
    code_spans: list[tuple[int, int]] = []
    at = 0
    for first, last in prose:
        if first >= at:
            read = _Stretch(plain[first:last], env.get("references", {}))
            read.scan()
            code_spans += [(first + start, first + end) for start, end in read.spans]
            counts = of_images.get(first, [])
            counts = counts if len(counts) == len(read.images) else [0] * len(read.images)
            images += [
                replace(image.moved(first), paragraph_of=count)
                for image, count in zip(read.images, counts, strict=True)
            ]
            markup.append((first, last))
            at = last
    outline = tuple(f"{token.type} {token.hidden}" for token in parsed)
    hidden = sorted([*code_spans, *((image.start, image.end) for image in images)])
    return Markdown(blanked(plain, hidden), tuple(images), tuple(sorted(markup)), tuple(prose), outline)


def outline(text: str) -> tuple[str, ...]:
    """The parts of a Markdown text that its lines decide on, as paragraphs, in order."""
    return read_markdown(text).outline


def _image_counts(text: Token) -> list[int]:
    """For each image of a text: of how many images, and nothing else, its paragraph consists; 0 where it is not one such.

    Lines of tags alone stand between paragraphs; so it is where components are, and only there it matters.
    """
    paragraphs: list[list[Token]] = [[]]
    for is_break, children in itertools.groupby(text.children or [], lambda child: child.type == "softbreak"):
        line = list(children)
        said = "".join(child.content if child.type == "text" else "x" for child in line)
        if not is_break and _LINE_OF_TAGS.fullmatch(said):
            paragraphs.append([])
        elif not is_break:
            paragraphs[-1] += line
    counts: list[int] = []
    for paragraph in paragraphs:
        count = sum(child.type == "image" for child in paragraph)
        others = (one for one in paragraph if one.type != "image" and (one.type != "text" or _is_said(one.content)))
        counts += [0 if any(others) else count] * count
    return counts


def _is_said(text: str) -> bool:
    return bool(_EXPRESSION.sub("", text).strip())


class _Stretch:
    """Code spans and images of one stretch of prose, in order; all offsets are within it.

    Attributes:
        spans: start and end offsets of code spans.
    """

    def __init__(self, text: str, references: Mapping[str, Mapping[str, str]]) -> None:
        self.spans: list[tuple[int, int]] = []
        self.images: list[Tag] = []
        self._text, self._references = text, references
        self._open_tags = 0
        self._label_ends: dict[int, int] = {}  # offset of the bracket that closes each opening one; -1 for none

    def scan(self) -> None:
        """Fills in the spans and the images."""
        at, text = 0, self._text
        while (found := _SPECIAL.search(text, at)) is not None:
            special = found.group()
            if special != "![":
                at = self._past(found)
                if special[0] == "`" and at > found.end():
                    self.spans.append((found.start(), at))
            elif (image := self._image(found.start())) is not None:
                self.images.append(image)
                at = image.end
            else:
                at = found.end()

    def _past(self, found: re.Match[str]) -> int:
        """End offset of an escape, a code span, or a tag, comment or address in angle brackets; else of the match."""
        if found.group() == "\\":
            return found.end() + 1
        if found.group() == "<":
            return self._past_markup(found.start())
        return max(found.end(), self._closing_run(found.end(), len(found.group())))

    @functools.cached_property
    def _runs(self) -> dict[int, list[int]]:
        """Offsets of runs of backticks, by their length."""
        runs: dict[int, list[int]] = {}
        for run in _RUN.finditer(self._text):
            runs.setdefault(len(run.group()), []).append(run.start())
        return runs

    def _closing_run(self, at: int, count: int) -> int:
        """End offset of the next run of so many backticks, or -1."""
        starts = self._runs.get(count, [])
        place = bisect.bisect_left(starts, at)
        return starts[place] + count if place < len(starts) else -1

    def _past_markup(self, at: int) -> int:
        """End offset of a tag, comment or address in angle brackets; else of the bracket."""
        text = self._text
        if found := _AUTOLINK.match(text, at):
            return found.end()
        if text.startswith("<!--", at):
            return max(at + 1, closing(text, at + 4, _COMMENT_END))
        tag = read_tag(text, at) if self._open_tags < _MOST_OPEN_TAGS else None
        self._open_tags += tag is None
        return tag.end if tag else at + 1

    def _label_end(self, start: int) -> int:
        """Offset of the bracket that closes the one at `start`; -1 if none does. Brackets within it are remembered."""
        ends, text = self._label_ends, self._text
        if start in ends:
            return ends[start]
        opened, at = [start], start + 1
        while opened and (found := _IN_LABEL.search(text, at)) is not None:
            at = found.end()
            if found.group() == "[":
                opened.append(found.start())
            elif found.group() == "]":
                ends[opened.pop()] = found.start()
                target = _target(text, at) if opened else None
                at = target[0] if target else at  # brackets in the address of a link within are none of the label
            else:
                at = self._past(found)
        ends.update((one, -1) for one in opened)
        return ends[start]

    def _image(self, start: int) -> Tag | None:
        """The image that begins at a `![`, if one does."""
        text, close = self._text, self._label_end(start + 1)
        if close < 0:
            return None
        said = text[start + 2 : close]
        if target := _target(text, close + 1):
            end, src, title = target
            return _as_tag(start, end, src, said, title)
        label = _LABEL.match(text, close + 1)
        name = label.group(1) if label and label.group(1).strip() else said
        known = self._references.get(_normalized(name)) if len(name) < _LONGEST_LABEL else None
        if known is None:
            return None
        return _as_tag(start, label.end() if label else close + 1, known["href"], said, known.get("title", ""))


def _as_tag(start: int, end: int, src: str, said: str, title: str) -> Tag:
    """An image of Markdown as an img tag whose attributes all stand where the image does."""
    values = {"src": src, "alt": _alt(said), **({"title": title} if title else {})}
    attributes = (Attribute(name, html.escape(value), start, end) for name, value in values.items())
    return Tag("img", closing=False, attributes=tuple(attributes), start=start, end=end, short=True)


def _target(text: str, at: int) -> tuple[int, str, str] | None:
    """End offset, address and title within parentheses, escapes resolved; None if it is no address."""
    if not text.startswith("(", at):
        return None
    from markdown_it.helpers import parseLinkDestination, parseLinkTitle  # slow to load, and few sites have Markdown

    address = parseLinkDestination(text, _past(_SPACE, text, at + 1), len(text))
    end = address.pos if address.ok else _past(_SPACE, text, at + 1)
    behind = _past(_SPACE, text, end)
    title = parseLinkTitle(text, behind, len(text)) if address.ok and behind > end else None
    if title and title.ok:
        behind = _past(_SPACE, text, title.pos)
    if not text.startswith(")", behind):
        return None
    return behind + 1, address.str, title.str if title and title.ok else ""


def _past(pattern: re.Pattern[str], text: str, at: int) -> int:
    found = pattern.match(text, at)
    return found.end() if found else at


def _alt(said: str) -> str:
    """The description of an image as plain text."""
    parser = _parser()
    children = parser.parseInline(" ".join(said.split()))[0].children or []
    renderer: Any = parser.renderer
    return str(renderer.renderInlineAsText(children, parser.options, {}))


def _normalized(label: str) -> str:
    from markdown_it.common.utils import normalizeReference

    return normalizeReference(label)


@functools.cache
def _parser(*, components: bool = False) -> MarkdownIt:
    from markdown_it import MarkdownIt

    parser = MarkdownIt("commonmark").enable("table")
    return parser.disable(["code", "html_block", "html_inline", "autolink"]) if components else parser


def blanked(text: str, spans: list[tuple[int, int]]) -> str:
    """The text with spaces for all within spans but line ends: of the same length."""
    parts, at = [], 0
    for start, end in sorted(spans):
        if start >= at:
            parts += [text[at:start], re.sub(r"[^\r\n]", " ", text[start:end])]
            at = end
    return "".join([*parts, text[at:]])
