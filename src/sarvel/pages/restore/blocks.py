"""The blocks of a page that are Sarvel's: found, read and taken back; `written` makes them. Text in, text out.

A woven block holds the author's own tag, so nothing else is needed to restore it byte for byte:

    <img data-sarvel="card" src="masters/boat.jpg" alt="The boat" />            the author's tag
    <picture>
      <source …>
      <img data-sarvel="card" data-woven="masters/boat.jpg#…" alt="The boat"    the same, attributes set aside
        src="…" srcset="…" loading="lazy" … />                                  and behind them ours, from src on
    </picture>

An attribute that would contradict ours is set aside by renaming it in place: `src` as `data-woven`, others with
`data-was-` in front. So from our `src` on, all attributes of the names in `OURS` are Sarvel's, and none before it is.
Whether they are still as they were written, a mark tells (see `marks`).
An attribute that decides whether or how often the image is there is set aside too, and is on the picture instead.
Of an image in Markdown, the author's words are kept whole, in `data-was-markdown`. The markup there must not change the
its lines are read as: see `Block.within` and `Block.line_break`.

In scripts the tag may call a component instead, which has the markup: see `component_tags`. Markdown may call a partial: see
`core.html.markdown_call`.

Within a line of text no white space is put between elements, where it would show as a gap that the author never wrote.
"""

from __future__ import annotations

import heapq
import itertools
import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Protocol

from sarvel.core.html.dialect import HTML, Dialect
from sarvel.core.html.markdown_call import image_of
from sarvel.core.html.master_attribute import MASTERS, is_marked, master_of, unmarked
from sarvel.core.html.srcset import widest
from sarvel.core.html.tags import (
    COMPONENT,
    Attribute,
    Tag,
    Wanted,
    is_call,
    line_and_column,
    line_end,
    read_tag,
    words_of,
)
from sarvel.core.html.template_code import beside_code
from sarvel.core.quoted import escaped
from sarvel.notices import Kind, Notice
from sarvel.pages.restore import marks
from sarvel.pages.restore.background_tags import backgrounds_in
from sarvel.pages.restore.component_tags import CALLED_BY
from sarvel.pages.restore.image_places import PARAGRAPH, end_tag, image_places, is_own_call, is_woven
from sarvel.pages.restore.mention_tags import Mentioned, mentioned_in
from sarvel.pages.restore.style_urls import styled_in

# An attribute that would contradict ours keeps its place under a name that browsers pass over, with this in front.
WAS = "data-was-"
WAS_OBJECT = f"{WAS}object-style"
"""The name for a style that is an object of a script; its value is the object's words."""

_IMG = re.compile(r"<img(?=[\s/])", re.IGNORECASE)
_PICTURE = re.compile(r"<picture(?=[\s/>])", re.IGNORECASE)
_TAG = re.compile(r"<[/A-Za-z]")

_MOST_CUT_OFF = 8  # images behind the last block that are tried: each is read to the end of the file

# CommonMark 0.31, sections 5.1 and 5.2: possible prefixes of the text of a line: block quotes and the markers of list items.
_CONTAINERS = re.compile(r"[ \t]*(?:(?:>|[-+*]|\d{1,9}[.)])[ \t]*)*")
_MARKER = re.compile(r"[^\s>]")
_BLANK_LINE = re.compile(r"[ \t]*(?:[\r\n]|\Z)")
_LINE_END = re.compile(r"[\r\n]")

BOUND = (":", "v-bind:")
_OURS = Wanted(frozenset({"img", "picture", COMPONENT.lower()}))
_UNREADABLE = Notice(
    Kind.IMAGE,
    "",
    "has another meaning by itself than on its page",
    "close the open quote or brace before or in it",
)
_CUT_OFF = Notice(Kind.IMAGE, "", "is cut off by the end of the file", "close it, and any quote in it")
_SWALLOWS = Notice(
    Kind.IMAGE,
    "",
    "swallows what follows: it, or a quote in it, is not closed",
    "close it in front of what became part of it",
)
_AMONG = Notice(
    Kind.IMAGE,
    "",
    "is in a paragraph of images only, which woven markup would end",
    "give each a paragraph of its own",
)


def _edited(what: str) -> Notice | None:
    """The fault of a woven block that someone changed; None if no one did."""
    cure = "take that change out again, onto the img or in front of the block, or put your own tag here"
    return Notice(Kind.IMAGE, "", f"is not changed, because {what} in the woven block", cure) if what else None


@dataclass(frozen=True)
class Block:
    """A place in a page where an image is asked for.

    Attributes:
        start: where the author's tag, or its woven block, begins in the page.
        image: the same as an img tag, if it is Markdown; else what `tag` is.
        slot: the slot that it names; None if it names none, as images in Markdown do.
        src: the file that it names, character references resolved; None where it names none. Of an image that names no slot
            and lists several files, the widest.
        alt: its own alt, as written; None where it has none.
        line: for messages, from 1.
        column: for messages, from 1.
        indent: the white space that its line begins with, in the page without anything woven.
        one_line: whether it must stay within its line.
        fault: why it cannot be woven, what to do; "" where it can.
        mention: what names the file, if that is no img: a background, a link and so on; None for an image.
        within: the element to write it in, so that a paragraph of Markdown stays one; "" for none.
        picture: of an image in a picture by hand, the start tag of that, as written; else "".
        line_break: what follows the opening tag of its picture, so that a tag alone on its line stays HTML for Markdown: a
            line end, and what lines begin with there; "" for nothing.
    """

    start: int
    end: int
    tag: str
    image: str
    slot: str | None
    src: str | None
    alt: str | None
    line: int
    column: int
    indent: str
    one_line: bool = False
    fault: Notice | None = None
    mention: Mentioned | None = None
    within: str = ""
    picture: str = ""
    line_break: str = ""

    @property
    def is_shown(self) -> bool:
        """Whether the page shows the image there: it does not where it links to one, or names one for others to show."""
        return self.mention is None or self.mention.use in ("background", "single")


def blocks(page: str, dialect: Dialect = HTML, *, mapped: bool = False) -> Iterator[Block]:
    """All images of a page that are asked of Sarvel, woven or not, in order.

    Args:
        mapped: whether images that name no slot are asked of Sarvel, too.
    """
    line, at = _AuthorLine(), 0  # the line as its author wrote it, up to here
    tags = (tag for tag in dialect.tags(page, _OURS) if tag.name in _OURS.names and not is_own_call(tag))
    images: Iterable[_Place] = image_places(page, tags, mapped=mapped)
    mentions = heapq.merge(
        backgrounds_in(page, dialect), mentioned_in(page, dialect), styled_in(page, dialect), key=lambda one: one.start
    )
    asked: Iterable[_Place] = ((one.start, one.end, one, None) for one in mentions if mapped or one.slot is not None)
    for start, end, found, fault in heapq.merge(images, asked, key=lambda place: place[0]):
        if start < at:
            continue  # a tag with a background that mentions another image, too
        line = line.with_more(page[at:start])
        if isinstance(found, Mentioned):
            block = _mention(page, found)
        else:
            block = _block(page, start, end, found, line.indent, fault, dialect)
            block = _among_lines(page, block, found, dialect) if dialect.lines else block
        yield block
        line, at = line.with_more(block.tag), end
    if (start := _cut_off(page, at, dialect)) >= 0 and (mapped or "data-sarvel" in page[start:]):
        place = line_and_column(page, start)
        yield Block(start, len(page), page[start:], page[start:], None, None, None, *place, "", fault=_CUT_OFF)


def _cut_off(page: str, at: int, dialect: Dialect) -> int:
    """Offset of the first img that the end of the file cuts off, or -1; in its open quote there may be others."""
    starts = (found.start() for found in itertools.islice(_IMG.finditer(page, at), _MOST_CUT_OFF))
    first = next((start for start in starts if read_tag(page, start, dialect.code) is None), -1)
    tags = dialect.tags(f"{page[:first]}<img>", _OURS) if first >= 0 else ()
    return (
        first if any(tag.start == first for tag in tags) else -1
    )  # it stands where tags do, and in no comment or script


_Place = tuple[int, int, Tag | Mentioned, Notice | None]


@dataclass(frozen=True)
class _AuthorLine:
    """The beginning of a line: its indentation, and whether the line is empty so far."""

    indent: str = ""
    blank: bool = True

    def with_more(self, text: str) -> _AuthorLine:
        """The line behind further text."""
        start = max(text.rfind("\n"), text.rfind("\r")) + 1
        line = _AuthorLine() if start else self
        if not line.blank:
            return line
        rest = text[start:].lstrip(" \t")
        return _AuthorLine(line.indent + text[start : len(text) - len(rest)], blank=not rest)


def _among_lines(page: str, block: Block, image: Tag, dialect: Dialect) -> Block:
    """The block with what the lines around it ask for."""
    if dialect.lines == "components":
        if image.paragraph_of > 1:
            return replace(block, fault=block.fault or _AMONG)
        is_one = image.paragraph_of == 1 or page.startswith(PARAGRAPH[0], block.start)
        return replace(block, within="p" if is_one else "")
    if image.short or marks.kept_whole(image) is not None:
        return replace(block, within="picture")
    head = page[page.rfind("\n", 0, block.start) + 1 : block.start]
    is_alone = _CONTAINERS.fullmatch(head) and _BLANK_LINE.match(page, block.end) and not _LINE_END.search(block.tag)
    return replace(block, line_break=line_end(page) + _MARKER.sub(" ", head)) if is_alone else block


class Span(Protocol):
    """A stretch of a page."""

    @property
    def start(self) -> int:
        """Start offset."""

    @property
    def end(self) -> int:
        """End offset."""


def replaced(page: str, changes: Iterable[tuple[Span, str]]) -> str:
    """The page with some places, which do not overlap, replaced by other text; every other character stays."""
    parts, at = [], 0
    for block, text in sorted(changes, key=lambda change: change[0].start):
        parts += [page[at : block.start], text]
        at = block.end
    return "".join([*parts, page[at:]])


def _mention(page: str, found: Mentioned) -> Block:
    return Block(
        found.start,
        found.end,
        found.author,
        found.author,
        found.slot,
        found.urls[0],
        "",
        *line_and_column(page, found.start),
        "",
        fault=_edited(found.fault),
        mention=found,
    )


def _block(page: str, start: int, end: int, image: Tag, indent: str, fault: Notice | None, dialect: Dialect) -> Block:
    if image.short:
        text = image_of(page[start:end]) if is_call(image) else page[start:end]
        written = _img_of_markdown(text, image, dialect)
    else:
        text = written = _author_tag(page, image) + end_tag(page, image)
        kept = marks.kept_whole(image)
        if start != image.start and not is_woven(image):
            text = page[start:end]
            written = with_attributes(
                page[image.start : image.end], [f'{marks.WAS_PICTURE}="{_in_one_line(escaped(text))}"'], dialect
            )
        elif is_call(image):
            pass  # its attributes are the author's, but for CALLED_BY
        elif master_of(image) or kept or start != image.start:
            changed = marks.changes(page[start:end], dialect)
            text = written = _with_kept(written, changed.kept, dialect)
            fault = fault or _edited(changed.lost)
        if kept is not None:
            text, written = kept.value, _without_ours(page, image)
    by_hand = _PICTURE.match(text)
    picture = read_tag(text, 0, dialect.code) if by_hand else None
    author = read_tag(written, 0, dialect.code)
    if author is None or author.end + len(end_tag(written, author)) != len(written):
        author, fault = Tag("img", closing=False, attributes=(), start=0, end=len(written)), fault or _UNREADABLE
    if fault is None and _swallows(written, author, dialect):
        fault = _SWALLOWS
    slot, alt = (_said(author, name) for name in ("data-sarvel", "alt"))
    return Block(
        start,
        end,
        text,
        written,
        slot.value if slot else None,
        _master(author) if slot is None else words_of(author),
        ("" if alt.name.lower() != "alt" else alt.value) if alt else None,
        *line_and_column(page, start),
        indent,
        dialect.one_line or image.one_line,
        fault,
        picture=text[: picture.end] if picture else "",
    )


def _swallows(text: str, author: Tag, dialect: Dialect) -> bool:
    """Tells whether other tags became part of an img that is not closed, or of an open quote in it.

    A tag is in a name then (HTML, section 13.2.5.33), or in a value behind which a name holds the quote that ended it. A stray
    quote alone harms nothing.
    """
    names = "".join(beside_code(text, dialect.code, one.start, one.start + len(one.name)) for one in author.attributes)
    return "<" in names or ('"' in names and any(_TAG.search(one.raw or "") for one in author.attributes))


def _with_kept(tag_text: str, kept: Sequence[str], dialect: Dialect) -> str:
    """An author's tag with attributes that were edited in the woven block, in place of its own of these names."""
    tag = read_tag(tag_text, 0, dialect.code) if kept else None
    if tag is None:
        return tag_text
    own = {one.name.lower(): one for one in reversed(tag.attributes)}
    names = [re.split(r"[\s=]", text, maxsplit=1)[0].lower() for text in kept]
    changes = sorted(
        (own[name].start, own[name].end, text) for name, text in zip(names, kept, strict=True) if name in own
    )
    for start, end, text in reversed(changes):
        tag_text = tag_text[:start] + text + tag_text[end:]
    return with_attributes(tag_text, [text for name, text in zip(names, kept, strict=True) if name not in own], dialect)


def _master(author: Tag) -> str | None:
    """The file that an image without a slot means: the widest of its list, since its `src` may be a small one."""
    srcset = author.get("srcset")
    return (widest(srcset.value) if srcset else None) or words_of(author)


def _said(tag: Tag, name: str) -> Attribute | None:
    """An attribute, or one by which a component framework computes it."""
    return next((found for form in ("", *BOUND) if (found := tag.get(form + name))), None)


def _img_of_markdown(text: str, image: Tag, dialect: Dialect) -> str:
    """An img tag for an image in Markdown. Line ends and bars would end its line, or its cell of a table."""
    said = {marks.WAS_MARKDOWN: text, **image.values()}
    attributes = " ".join(f'{name}="{escaped(value)}"' for name, value in said.items())
    end = " />" if dialect.closed else ">"
    return _in_one_line(f"<img {attributes}{end}")


def _in_one_line(text: str) -> str:
    """Markup whose line ends, and bars that would end a cell of a table in Markdown, are character references."""
    return text.replace("\r", "&#13;").replace("\n", "&#10;").replace("|", "&#124;")


def _author_tag(page: str, tag: Tag) -> str:
    """An img as its author wrote it, woven or not."""
    is_woven = is_call(tag) or any(attribute.name.lower() in MASTERS for attribute in tag.attributes)
    return _without_ours(page, tag) if is_woven else page[tag.start : tag.end]


def _without_ours(page: str, tag: Tag) -> str:
    parts, at, in_ours = [], tag.start, False
    if is_call(tag):
        parts, at = ["<img"], tag.start + 1 + len(COMPONENT)
    for attribute in tag.attributes:
        between = page[at : attribute.start]
        in_ours = in_ours or attribute.name.lower() == "src"
        ours = CALLED_BY if is_call(tag) else marks.OURS if in_ours else ()
        if attribute.name.lower() in ours:
            parts.append(between.rstrip())
        elif attribute.name == WAS_OBJECT:
            parts += [between, f"style={attribute.value}"]
        else:
            behind = behind_name(page, attribute)
            if is_marked(attribute.name):
                behind = unmarked(behind)[0]
            parts += [between, _name_before(attribute.name), behind]
        at = attribute.end
    return "".join([*parts, page[at : tag.end]])


def with_attributes(tag_text: str, attributes: Sequence[str], dialect: Dialect, gap: str = " ") -> str:
    """A tag with further attributes behind its last attribute or code, before the slash that it may end with."""
    tag = read_tag(tag_text, 0, dialect.code)
    if tag is None or not attributes:
        return tag_text
    ending = re.search(r"\s*/?>\Z", tag_text[: tag.end])
    last = tag.attributes[-1].end if tag.attributes else len("<img")
    behind = max(last, ending.start() if ending else last)
    return "".join([tag_text[:behind], *(gap + attribute for attribute in attributes), tag_text[behind:]])


def behind_name(text: str, attribute: Attribute) -> str:
    """The text of an attribute behind its name: its equals sign and its value."""
    return text[attribute.start + len(attribute.name) : attribute.end]


def _name_before(name: str) -> str:
    """The author's name of an attribute that may have been set aside."""
    if name.lower() in MASTERS:
        author = MASTERS[name.lower()]
        return recased("src", 0, name[5:8]) if author == "src" else author
    return (
        name[len(WAS) :]
        if name.lower().startswith(WAS) and name not in (marks.WAS_MARKDOWN, marks.WAS_PICTURE)
        else name
    )


def recased(name: str, at: int, like: str) -> str:
    """A name whose three letters from `at` on take their case from `like`, to restore SRC as SRC."""
    letters = [
        letter.upper() if model.isupper() else letter for letter, model in zip(name[at : at + 3], like, strict=True)
    ]
    return name[:at] + "".join(letters) + name[at + 3 :]
