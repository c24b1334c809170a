"""The blocks of a page that are Sarvel's: found, read, written and taken back. Text in, text out.

A woven block holds the author's own tag, so that nothing else need be remembered to give it back byte for byte:

    <img data-sarvel="card" src="masters/boat.jpg" alt="The boat" />            the author's tag
    <picture data-woven
      ><source …
      ><img data-sarvel="card" data-master="masters/boat.jpg" alt="The boat"    the same, attributes set aside
        src="…" srcset="…" loading="lazy" decoding="async" /></picture>         and behind them ours, from src on

An attribute that would contradict ours is set aside by renaming it in place: `src` as `data-master`, others with
`data-was-` in front. So from our `src` on, all attributes of the names in `_OURS` are Sarvel's, and none before it is.
An attribute that decides whether or how often the image is there is set aside as well, and stands on the picture instead.
Of an image in Markdown, the author's words are kept whole, in `data-was-markdown`.

No white space is put between elements: inside a line of text it would show as a gap that the author never wrote.
"""

from __future__ import annotations

import html
import re
from collections.abc import Container, Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Protocol

from sarvel.core.html.dialect import HTML, Dialect
from sarvel.core.html.markdown import MarkdownImage, read_markdown
from sarvel.core.html.markup import Markup, Source
from sarvel.core.html.srcset import widest
from sarvel.core.html.tags import OURS, Attribute, Tag, line_and_column, read_tag

_SET_ASIDE = ("srcset", "sizes", "width", "height")
_OURS = frozenset({"src", *_SET_ASIDE, "alt", "loading", "decoding", "fetchpriority", "style"})
_WAS = "data-was-"
_LINE_END = re.compile(r"\r\n|\r|\n")
_MARKDOWN = _WAS + "markdown"

# What component frameworks and shadow trees read on an element to tell whether, how often or where it is there.
_MOVED = ("v-if", "v-else-if", "v-else", "v-for", "v-slot", "key", ":key", "v-bind:key", "slot", "x-if", "x-for")
_BOUND = (":", "v-bind:")
_CAMEL = {"srcset": "srcSet", "fetchpriority": "fetchPriority"}
_NESTED = "stands inside a picture element; Sarvel writes the picture itself, so take that one away"
_UNREADABLE = "reads otherwise by itself than on its page; close what is open before or in it, a quote or a brace"
_UNCLOSED = "its woven picture element is not closed; write </picture> behind the img"


@dataclass(frozen=True)
class Block:
    """A place in a page where an image is asked for.

    Attributes:
        start: where the author's tag, or what was woven from it, begins in the page.
        end: where it ends.
        tag: what the author wrote.
        image: the same as an img tag, if it is Markdown; else what `tag` is.
        slot: the slot that it names; None if it names none, as images in Markdown do.
        src: the file that it names, character references resolved; None where it names none. Of an image that names no slot
            and lists several files, the widest.
        alt: its own alt, as written; None where it has none.
        line: for messages, from 1.
        column: for messages, from 1.
        indent: the white space that its line begins with, in the page without anything woven.
        fault: why it cannot be woven, what to do; "" where it can.
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
    fault: str = ""


def blocks(page: str, dialect: Dialect = HTML, *, mapped: bool = False) -> Iterator[Block]:
    """All images of a page that are asked of Sarvel, woven or not, in order.

    Args:
        page: its text.
        dialect: how to read it.
        mapped: whether images that name no slot are asked of Sarvel, too.
    """
    line, at = "", 0  # the line as its author wrote it, up to here
    for start, end, image, fault in _places(page, dialect, mapped=mapped):
        line = _last_line(line + page[at:start])
        block = _block(page, start, end, image, line, fault, dialect)
        yield block
        line, at = _last_line(line + block.tag), end


_Place = tuple[int, int, Tag | MarkdownImage, str]


def _places(page: str, dialect: Dialect, *, mapped: bool) -> list[_Place]:
    """Where blocks begin and end, the image of each, and what is wrong with it; in order."""
    if dialect.name != "markdown":
        return list(_tag_places(dialect.tags(page, OURS), mapped=mapped))
    read = read_markdown(page)
    places = list(_tag_places(read.tags(OURS), mapped=mapped))
    if mapped:
        inside = [(start, end) for start, end, *_ in places]
        images = [one for one in read.images if not any(start <= one.start < end for start, end in inside)]
        places = sorted([*places, *((one.start, one.end, one, "") for one in images)], key=lambda place: place[0])
    return places


def _tag_places(tags: Iterable[Tag], *, mapped: bool) -> Iterator[_Place]:
    picture: Tag | None = None  # the picture element that is open
    inner: Tag | None = None  # the img of ours in it, if it is a woven one
    for tag in tags:
        is_woven = picture is not None and picture.get("data-woven") is not None
        if tag.name == "picture":
            if picture and inner:
                yield picture.start, *((tag.end, inner, "") if tag.closing else (inner.end, inner, _UNCLOSED))
            picture, inner = (None if tag.closing else tag), None
        elif tag.name == "img" and is_woven and _is_ours(tag):
            inner = inner or tag
        elif tag.name == "img" and not is_woven and (_is_ours(tag) or (mapped and not picture)):
            yield tag.start, tag.end, tag, _NESTED if picture else ""
    if picture and inner:
        yield picture.start, inner.end, inner, _UNCLOSED


def _is_ours(tag: Tag) -> bool:
    return tag.get("data-sarvel") is not None or tag.get("data-master") is not None


class Place(Protocol):
    """A stretch of a page."""

    @property
    def start(self) -> int:
        """Where it begins."""

    @property
    def end(self) -> int:
        """Just behind it."""


def replaced(page: str, changes: Iterable[tuple[Place, str]]) -> str:
    """The page with some places, which do not overlap, replaced by other text; every other character stays."""
    parts, at = [], 0
    for block, text in sorted(changes, key=lambda change: change[0].start):
        parts += [page[at : block.start], text]
        at = block.end
    return "".join([*parts, page[at:]])


def first_lost(
    page: str, found: Sequence[Block], woven_page: str, dialect: Dialect = HTML, *, mapped: bool = False
) -> Block | None:
    """The first block of a page that would not come back from what was woven of it; None if all do, as they should.

    Where a page is damaged, a quote never closed perhaps, what is woven can change what all that follows is read as.

    Args:
        page: its text.
        found: its blocks, all of them.
        woven_page: what was woven of it.
        dialect: how to read both.
        mapped: as for `blocks`.
    """
    before = _taken_apart(page, found)
    after = _taken_apart(woven_page, list(blocks(woven_page, dialect, mapped=mapped)))
    if before == after:
        return None
    same = (old == new for old, new in zip(before, after, strict=False))
    at = next((i for i, alike in enumerate(same) if not alike), len(after))
    return found[min(at, len(found) - 1)]


def _taken_apart(text: str, found: Sequence[Block]) -> list[tuple[str, str, str]]:
    """For each block, and for the end: what stands before it, what its author wrote, and what is wrong with it."""
    ends = [0, *(block.end for block in found)]
    parts = [(text[end : block.start], block.tag, block.fault) for end, block in zip(ends, found, strict=False)]
    return [*parts, (text[ends[-1] :], "", "")]


def woven(page: str, block: Block, markup: Markup, alt: str | None, dialect: Dialect = HTML) -> str:
    """What the block becomes.

    Args:
        page: the page that it stands in, for its line ends.
        block: a block without fault.
        markup: what to write.
        alt: the words to add where the author's tag has none; None adds none.
        dialect: how to spell it.
    """
    line = None if dialect.one_line else _line_end(page) + block.indent
    return _written_out(block.image, markup, None if block.alt is not None else alt, line, dialect)


def standing_alone(
    markup: Markup, alt: str | None, tag: str = "<img>", dialect: Dialect = HTML, line: str = "\n"
) -> str:
    """The same markup for where nothing is to be woven again, without what weaving needs.

    Args:
        markup: what to write.
        alt: the words; None if the tag has them.
        tag: an img to put the rest into.
        dialect: how to spell it.
        line: what a new line begins with.
    """
    return _written_out(tag, markup, alt, None if dialect.one_line else line, dialect, alone=True)


def _written_out(
    tag: str, markup: Markup, alt: str | None, line: str | None, dialect: Dialect, *, alone: bool = False
) -> str:
    """An img, in a picture where it has sources.

    Args:
        tag: the img as its author wrote it.
        markup: what to write.
        alt: the words to add; None adds none.
        line: what a new line begins with: the line end before it, and the indentation; None keeps all on one line.
        dialect: how to spell it.
        alone: whether the picture goes without its mark.
    """
    gap, inner = ("", " ") if line is None else (line + "  ", line + ("    " if markup.sources else "  "))
    moved = _moved(tag, dialect) if markup.sources else []
    background = markup.background if dialect.styled else ""
    bound = (form + name for form in _BOUND for name in _SET_ASIDE)
    set_aside = (*_SET_ASIDE, *bound, *(["style"] if background else []), *(name for name, _ in moved))
    image = _with_ours(tag, _image_attributes(tag, markup, background, alt, dialect), inner, set_aside, dialect)
    if not markup.sources:
        return image
    mark = [] if alone else ['data-woven=""' if dialect.closed else "data-woven"]
    opening = " ".join(["<picture", *mark, *(text for _, text in moved)])
    end = "/>" if dialect.closed else ">"
    sources = "".join(f"{_source(source, inner, dialect)}{gap}{end}" for source in markup.sources)
    return f"{opening}{gap}>{sources}{image}</picture>"


def _moved(tag_text: str, dialect: Dialect) -> list[tuple[str, str]]:
    """Attributes that belong on the outermost element: names in lower case, and their text."""
    tag = _read(tag_text, dialect)
    return [(one.name.lower(), tag_text[one.start : one.end]) for one in tag.attributes if one.name.lower() in _MOVED]


def _read(tag_text: str, dialect: Dialect) -> Tag:
    tag = read_tag(tag_text, 0, dialect.code)
    if tag is None:  # pragma: no cover - it was a tag before attributes were renamed
        raise AssertionError(tag_text)
    return tag


def _block(
    page: str, start: int, end: int, image: Tag | MarkdownImage, before: str, fault: str, dialect: Dialect
) -> Block:
    if isinstance(image, MarkdownImage):
        text = page[start:end]
        written = _img_of_markdown(text, image)
    else:
        text = written = _author_tag(page, image)
        if (kept := image.get(_MARKDOWN)) is not None:
            text, written = kept.value, _without_ours(page, image)
    author = read_tag(written, 0, dialect.code)
    if author is None or author.end != len(written):
        author, fault = Tag("img", closing=False, attributes=(), start=0, end=len(written)), fault or _UNREADABLE
    slot, src, alt = (_said(author, name) for name in ("data-sarvel", "src", "alt"))
    return Block(
        start,
        end,
        text,
        written,
        slot.value if slot else None,
        _master(author, src) if slot is None else src.value if src and src.name.lower() == "src" else None,
        ("" if alt.name.lower() != "alt" else alt.value) if alt else None,
        *line_and_column(page, start),
        before[: len(before) - len(before.lstrip(" \t"))],
        fault,
    )


def _master(author: Tag, src: Attribute | None) -> str | None:
    """The file that an image means which names no slot: the widest of its list, since its `src` may be a small one."""
    srcset = author.get("srcset")
    plain = src.value if src and src.name.lower() == "src" else None
    return (widest(srcset.value) if srcset else None) or plain


def _said(tag: Tag, name: str) -> Attribute | None:
    """An attribute, or one by which a component framework computes it."""
    return next((found for form in ("", *_BOUND) if (found := tag.get(form + name))), None)


def _img_of_markdown(text: str, image: MarkdownImage) -> str:
    """An img tag for an image in Markdown. Line ends and bars would end what it stands in: a line, a cell of a table."""
    title = {"title": image.title} if image.title else {}
    said = {_MARKDOWN: text, "src": image.src, "alt": image.alt, **title}
    attributes = " ".join(f'{name}="{escaped(value)}"' for name, value in said.items())
    return f"<img {attributes}>".replace("\r", "&#13;").replace("\n", "&#10;").replace("|", "&#124;")


def _author_tag(page: str, tag: Tag) -> str:
    """An img as its author wrote it, woven or not."""
    is_woven = any(attribute.name.lower() == "data-master" for attribute in tag.attributes)
    return _without_ours(page, tag) if is_woven else page[tag.start : tag.end]


def _without_ours(page: str, tag: Tag) -> str:
    parts, at, in_ours = [], tag.start, False
    for attribute in tag.attributes:
        between = page[at : attribute.start]
        in_ours = in_ours or attribute.name.lower() == "src"
        if in_ours and attribute.name.lower() in _OURS:
            parts.append(between.rstrip())
        else:
            parts += [between, _name_before(attribute.name), _behind_name(page, attribute)]
        at = attribute.end
    return "".join([*parts, page[at : tag.end]])


def _with_ours(tag_text: str, ours: list[str], line: str, set_aside: Container[str], dialect: Dialect) -> str:
    """The author's img with contradicting attributes set aside and ours put behind the last."""
    tag = _read(tag_text, dialect)
    parts, at, first_src = [], 0, tag.get("src")
    behind = _behind_last(tag_text, tag)
    for attribute in tag.attributes:
        name = attribute.name
        if attribute is first_src:
            name = _recased("data-master", 5, name)
        elif name.lower() == "src" or name.lower() in set_aside:
            name = _WAS + name
        parts += [tag_text[at : attribute.start], name, _behind_name(tag_text, attribute)]
        at = attribute.end
    parts.append(tag_text[at:behind])
    return "".join([*parts, *(line + attribute for attribute in ours), tag_text[behind:]])


def _behind_last(tag_text: str, tag: Tag) -> int:
    """Behind the last thing in a tag, an attribute or code: before the white space and the slash that it may end with."""
    ending = re.search(r"\s*/?>\Z", tag_text)
    last = tag.attributes[-1].end if tag.attributes else len("<img")
    return max(last, ending.start() if ending else last)


def _behind_name(text: str, attribute: Attribute) -> str:
    return text[attribute.start + len(attribute.name) : attribute.end]


def _name_before(name: str) -> str:
    """The author's name of an attribute that may have been set aside."""
    if name.lower() == "data-master":
        return _recased("src", 0, name[5:8])
    return name[len(_WAS) :] if name.lower().startswith(_WAS) and name != _MARKDOWN else name


def _recased(name: str, at: int, like: str) -> str:
    """A name whose three letters from `at` on are in upper case where those of `like` are, to give SRC back as SRC."""
    letters = [
        letter.upper() if model.isupper() else letter for letter, model in zip(name[at : at + 3], like, strict=True)
    ]
    return name[:at] + "".join(letters) + name[at + 3 :]


def _image_attributes(tag: str, markup: Markup, background: str, alt: str | None, dialect: Dialect) -> list[str]:
    """Our attributes of the img, grouped as lines. What the author says of loading stays the author's."""
    author = _read(tag, dialect)
    said = {attribute.name.lower().removeprefix("v-bind").removeprefix(":") for attribute in author.attributes}
    wanted = {
        "loading": "eager" if markup.eager else "lazy",
        "decoding": "async",
        "fetchpriority": "high" if markup.eager else None,
        "alt": alt,
    }
    rest = _written(dialect, **{name: value for name, value in wanted.items() if name not in said})
    theirs = author.get("style")
    style = f"background:{background}" + (f";{theirs.value}" if theirs and theirs.value else "")
    lines = [
        _written(dialect, src=markup.src),
        *_candidates(markup.image, dialect),
        rest,
        _written(dialect, style=style) if background else "",
    ]
    return [line for line in lines if line]


def _source(source: Source, line: str, dialect: Dialect) -> str:
    conditions = _written(dialect, media=source.media, type=source.type)
    return line.join([f"<source {conditions}", *_candidates(source, dialect)])


def _candidates(source: Source, dialect: Dialect) -> list[str]:
    size = _written(dialect, width=str(source.width), height=str(source.height))
    sizes = _written(dialect, sizes=source.sizes)
    return [_written(dialect, srcset=source.srcset), f"{sizes} {size}" if sizes else size]


def _written(dialect: Dialect, **attributes: str | None) -> str:
    """Attributes as HTML writes them; those with nothing to say are left out, but for alt, which says it is decoration."""
    return " ".join(
        f'{_CAMEL.get(name, name) if dialect.camel else name}="{escaped(value)}"'
        for name, value in attributes.items()
        if value or (name == "alt" and value is not None)
    )


def escaped(value: str | None) -> str:
    """A text as an attribute's value, between double quotes."""
    return html.escape(value or "", quote=False).replace('"', "&quot;")


def _line_end(page: str) -> str:
    """How the page ends its lines, going by the first."""
    found = _LINE_END.search(page)
    return found.group() if found else "\n"


def _last_line(text: str) -> str:
    return text[max(text.rfind("\n"), text.rfind("\r")) + 1 :]
