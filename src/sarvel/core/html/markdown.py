"""Images in Markdown, in their exact place.

Which lines are code, and which are text, a Markdown parser says; where an image stands within them is found here by the
rules of CommonMark 0.31, sections 6.1 (code spans), 6.4 (images) and 2.4 (backslash escapes).
"""

from __future__ import annotations

import functools
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from sarvel.core.html.tags import Names, Tag, read_tag, tags

if TYPE_CHECKING:
    from markdown_it import MarkdownIt

_FRONT = re.compile(r"\A(---|\+\+\+)[ \t]*\r?\n(?:.*?\n)?\1[ \t]*(?:\r?\n|\Z)", re.DOTALL)
_LINE = re.compile(r"[^\r\n]*(?:\r\n|\r|\n|\Z)")
_SPECIAL = re.compile(r"\\|`+|<|!\[")
_AUTOLINK = re.compile(r"<[A-Za-z][A-Za-z0-9+.-]{1,31}:[^\s<>]*>")
_COMMENT = re.compile(r"<!--.*?-->", re.DOTALL)
_TARGET = re.compile(
    r"""\(\s*(?:<([^<>\n]*)>|([^\s()<\\]*(?:(?:\\.|\([^\s()]*\))[^\s()\\]*)*))"""
    r"""(?:\s+(?:"((?:[^"\\]|\\.)*)"|'((?:[^'\\]|\\.)*)'|\(((?:[^()\\]|\\.)*)\)))?\s*\)""",
    re.DOTALL,
)
_LABEL = re.compile(r"\[((?:[^\[\]\\]|\\.)*)\]")


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
            yield from tags(self.plain[:last], first, only=only)


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
    at = 0
    for first, last in prose:
        if first >= at:
            spans, found = _scan(plain, first, last, env.get("references", {}))
            plain = _blanked(plain, spans)
            images += found
            markup.append((first, last))
            at = last
    return Markdown(plain, tuple(images), tuple(sorted(markup)))


def _scan(
    text: str, first: int, last: int, references: Mapping[str, Mapping[str, str]]
) -> tuple[list[tuple[int, int]], list[MarkdownImage]]:
    """Code spans and images of one stretch of prose."""
    spans: list[tuple[int, int]] = []
    images: list[MarkdownImage] = []
    at = first
    while (found := _SPECIAL.search(text, at, last)) is not None:
        at, special = found.end(), found.group()
        if special == "\\":
            at += 1
        elif special[0] == "`":
            if (end := _closing_run(text, found.end(), last, len(special))) >= 0:
                spans.append((found.start(), end))
                at = end
        elif special == "<":
            at = _past_markup(text, found.start(), last)
        elif (image := _image(text, found.start(), last, references)) is not None:
            images.append(image)
            at = image.end
    return spans, images


def _closing_run(text: str, at: int, last: int, count: int) -> int:
    for run in re.compile(r"`+").finditer(text, at, last):
        if len(run.group()) == count:
            return run.end()
    return -1


def _past_markup(text: str, at: int, last: int) -> int:
    """Behind a tag, comment or address in angle brackets; else behind the bracket."""
    for pattern in (_AUTOLINK, _COMMENT):
        if (found := pattern.match(text, at)) is not None and found.end() <= last:
            return found.end()
    tag = read_tag(text, at)
    return tag.end if tag and tag.end <= last else at + 1


def _image(text: str, start: int, last: int, references: Mapping[str, Mapping[str, str]]) -> MarkdownImage | None:
    """The image that begins at a `![`, if one does."""
    close = _closing_bracket(text, start + 2, last)
    if close < 0:
        return None
    said = text[start + 2 : close]
    target = _TARGET.match(text, close + 1, last)
    if target:
        src = target.group(1) if target.group(1) is not None else target.group(2)
        title = next((group for group in target.group(3, 4, 5) if group is not None), "")
        return MarkdownImage(start, target.end(), _resolved(src), _alt(said), _resolved(title))
    label = _LABEL.match(text, close + 1, last)
    name = label.group(1) if label and label.group(1).strip() else said
    known = references.get(_normalized(name))
    if known is None:
        return None
    return MarkdownImage(start, label.end() if label else close + 1, known["href"], _alt(said), known.get("title", ""))


def _closing_bracket(text: str, at: int, last: int) -> int:
    depth = 1
    for found in re.compile(r"\\.|[\[\]]|`+", re.DOTALL).finditer(text, at, last):
        if found.group() == "[":
            depth += 1
        elif found.group() == "]":
            depth -= 1
            if not depth:
                return found.start()
    return -1


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
