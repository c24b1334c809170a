"""The blocks of a page that are Sarvel's: found, read, written and taken back. Text in, text out.

A woven block holds the author's own tag, so that nothing else need be remembered to give it back byte for byte:

    <img data-sarvel="card" src="masters/boat.jpg" alt="The boat" />            the author's tag
    <picture data-woven
      ><source …
      ><img data-sarvel="card" data-master="masters/boat.jpg" alt="The boat"    the same, attributes set aside
        src="…" srcset="…" loading="lazy" decoding="async" /></picture>         and behind them ours, from src on

An attribute that would contradict ours is set aside by renaming it in place: `src` as `data-master`, others with
`data-was-` in front. So from our `src` on, all attributes of the names in `_OURS` are Sarvel's, and none before it is.

No white space is put between elements: inside a line of text it would show as a gap that the author never wrote.
"""

from __future__ import annotations

import html
from collections.abc import Container, Iterator
from dataclasses import dataclass

from sarvel.core.html.markup import Markup, Source
from sarvel.core.html.tags import Attribute, Tag, line_and_column, read_tag, tags

_SET_ASIDE = ("srcset", "sizes", "width", "height")
_OURS = frozenset({"src", *_SET_ASIDE, "alt", "loading", "decoding", "fetchpriority", "style"})
_WAS = "data-was-"
_NESTED = "stands inside a picture element; Sarvel writes the picture itself, so take that one away"
_UNCLOSED = "its woven picture element is not closed; write </picture> behind the img"


@dataclass(frozen=True)
class Block:
    """A place in a page where an image is asked for.

    Attributes:
        start: where the author's tag, or what was woven from it, begins in the page.
        end: where it ends.
        tag: the author's tag, as the author wrote it.
        slot: the slot that it names.
        src: the file that it names, character references resolved; None where it names none.
        alt: whether it has an alt of its own.
        line: for messages, from 1.
        column: for messages, from 1.
        indent: the white space that its line begins with, in the page without anything woven.
        fault: why it cannot be woven, what to do; "" where it can.
    """

    start: int
    end: int
    tag: str
    slot: str
    src: str | None
    alt: bool
    line: int
    column: int
    indent: str
    fault: str = ""


def blocks(page: str) -> Iterator[Block]:
    """All images of a page that are asked of Sarvel, woven or not, in order."""
    line, at = "", 0  # the line as its author wrote it, up to here
    for start, end, image, fault in _places(page):
        line = _last_line(line + page[at:start])
        block = _block(page, start, end, image, line, fault)
        yield block
        line, at = _last_line(line + block.tag), end


def _places(page: str) -> Iterator[tuple[int, int, Tag, str]]:
    """Where blocks begin and end, the img of each, and what is wrong with it."""
    picture: Tag | None = None  # the picture element that is open
    inner: Tag | None = None  # the img of ours in it, if it is a woven one
    for tag in tags(page):
        is_woven = picture is not None and picture.get("data-woven") is not None
        if tag.name == "picture":
            if picture and inner:
                yield picture.start, *((tag.end, inner, "") if tag.closing else (inner.end, inner, _UNCLOSED))
            picture, inner = (None if tag.closing else tag), None
        elif tag.name == "img" and tag.get("data-sarvel"):
            if is_woven:
                inner = inner or tag
            else:
                yield tag.start, tag.end, tag, _NESTED if picture else ""
    if picture and inner:
        yield picture.start, inner.end, inner, _UNCLOSED


def replaced(page: str, changes: list[tuple[Block, str]]) -> str:
    """The page with some of its blocks, given in order, replaced by other text; every other character stays."""
    parts, at = [], 0
    for block, text in changes:
        parts += [page[at : block.start], text]
        at = block.end
    return "".join([*parts, page[at:]])


def woven(page: str, block: Block, markup: Markup, alt: str | None) -> str:
    """What the block becomes.

    Args:
        page: the page that it stands in, for its line ends.
        block: a block without fault.
        markup: what to write.
        alt: the words to add where the author's tag has none; None adds none.
    """
    return _written_out(block.tag, markup, None if block.alt else alt, _line_end(page) + block.indent, " data-woven")


def standing_alone(markup: Markup, alt: str) -> str:
    """The same markup for a page that Sarvel does not weave, without what weaving needs."""
    return _written_out("<img>", markup, alt, "\n", "")


def _written_out(tag: str, markup: Markup, alt: str | None, line: str, mark: str) -> str:
    """An img, in a picture where it has sources.

    Args:
        tag: the img as its author wrote it.
        markup: what to write.
        alt: the words to add; None adds none.
        line: what a new line begins with: the line end before it, and the indentation.
        mark: attributes of the picture, with a space in front.
    """
    inner = line + ("    " if markup.sources else "  ")
    set_aside = (*_SET_ASIDE, *(["style"] if markup.background else []))
    image = _with_ours(tag, _image_attributes(tag, markup, alt), inner, set_aside)
    if not markup.sources:
        return image
    sources = "".join(f"{line}  >{_source(source, inner)}" for source in markup.sources)
    return f"<picture{mark}{sources}{line}  >{image}</picture>"


def _block(page: str, start: int, end: int, tag: Tag, before: str, fault: str) -> Block:
    text = _author_tag(page, tag)
    author = tag if text == page[tag.start : tag.end] else read_tag(text, 0)
    if author is None:  # pragma: no cover - it was a tag before attributes were renamed
        raise AssertionError(text)
    slot, src = author.get("data-sarvel"), author.get("src")
    line, column = line_and_column(page, start)
    return Block(
        start,
        end,
        text,
        slot.value if slot else "",
        src.value if src else None,
        author.get("alt") is not None,
        line,
        column,
        before[: len(before) - len(before.lstrip(" \t"))],
        fault,
    )


def _author_tag(page: str, tag: Tag) -> str:
    """An img as its author wrote it, woven or not."""
    if not any(attribute.name.lower() == "data-master" for attribute in tag.attributes):
        return page[tag.start : tag.end]
    parts, at, in_ours = [], tag.start, False
    for attribute in tag.attributes:
        between = page[at : attribute.start]
        in_ours = in_ours or attribute.name.lower() == "src"
        if in_ours and attribute.name.lower() in _OURS:
            parts.append(between.strip())
        else:
            parts += [between, _name_before(attribute.name), _behind_name(page, attribute)]
        at = attribute.end
    return "".join([*parts, page[at : tag.end]])


def _with_ours(tag_text: str, ours: list[str], line: str, set_aside: Container[str]) -> str:
    """The author's img with contradicting attributes set aside and ours put behind the last."""
    tag = read_tag(tag_text, 0)
    if tag is None:  # pragma: no cover - blocks only hold tags
        raise AssertionError(tag_text)
    parts, at, first_src = [], 0, tag.get("src")
    behind = tag.attributes[-1].end if tag.attributes else tag.start + len("<img")
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


def _behind_name(text: str, attribute: Attribute) -> str:
    return text[attribute.start + len(attribute.name) : attribute.end]


def _name_before(name: str) -> str:
    """The author's name of an attribute that may have been set aside."""
    if name.lower() == "data-master":
        return _recased("src", 0, name[5:8])
    return name[len(_WAS) :] if name.lower().startswith(_WAS) else name


def _recased(name: str, at: int, like: str) -> str:
    """A name whose three letters from `at` on are in upper case where those of `like` are, to give SRC back as SRC."""
    letters = [
        letter.upper() if model.isupper() else letter for letter, model in zip(name[at : at + 3], like, strict=True)
    ]
    return name[:at] + "".join(letters) + name[at + 3 :]


def _image_attributes(tag: str, markup: Markup, alt: str | None) -> list[str]:
    """Our attributes of the img, grouped as lines. What the author says of loading stays the author's."""
    author = read_tag(tag, 0)
    said = {attribute.name.lower() for attribute in author.attributes} if author else set()
    wanted = {
        "loading": "eager" if markup.eager else "lazy",
        "decoding": "async",
        "fetchpriority": "high" if markup.eager else None,
        "alt": alt,
    }
    rest = _written(**{name: value for name, value in wanted.items() if name not in said})
    theirs = author.get("style") if author else None
    style = f"background:{markup.background}" + (f";{theirs.value}" if theirs and theirs.value else "")
    lines = [
        _written(src=markup.src),
        *_candidates(markup.image),
        rest,
        _written(style=style) if markup.background else "",
    ]
    return [line for line in lines if line]


def _source(source: Source, line: str) -> str:
    conditions = _written(media=source.media, type=source.type)
    return line.join([f"<source {conditions}", *_candidates(source)])


def _candidates(source: Source) -> list[str]:
    size = _written(width=str(source.width), height=str(source.height))
    sizes = _written(sizes=source.sizes)
    return [_written(srcset=source.srcset), f"{sizes} {size}" if sizes else size]


def _written(**attributes: str | None) -> str:
    """Attributes as HTML writes them; those with nothing to say are left out, but for alt, which says it is decoration."""
    return " ".join(
        f'{name}="{html.escape(value, quote=False).replace(chr(34), "&quot;")}"'
        for name, value in attributes.items()
        if value or (name == "alt" and value is not None)
    )


def _line_end(page: str) -> str:
    """How the page ends its lines, going by the first."""
    for i, letter in enumerate(page):
        if letter in "\r\n":
            return "\r\n" if page[i : i + 2] == "\r\n" else letter
    return "\n"


def _last_line(text: str) -> str:
    return text[max(text.rfind("\n"), text.rfind("\r")) + 1 :]
