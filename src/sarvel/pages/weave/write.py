"""Writing of blocks: the finished markup, spelled as its dialect wants it. See `blocks` for the form."""

from __future__ import annotations

import re
from collections.abc import Container, Mapping, Sequence

from sarvel.core.html.dialect import DIALECTS, HTML, Dialect
from sarvel.core.html.images import names_a_file
from sarvel.core.html.master_attribute import MARK, MASTERS, marked
from sarvel.core.html.tags import Tag, line_end, read_tag
from sarvel.core.html.template_code import braces
from sarvel.core.markup.picture import Markup, Source
from sarvel.core.quoted import escaped, literal
from sarvel.pages.restore.blocks import (
    BOUND,
    WAS,
    WAS_OBJECT,
    Block,
    behind_name,
    recased,
    with_attributes,
)
from sarvel.pages.restore.image_places import PARAGRAPH
from sarvel.pages.restore.marks import mark_of
from sarvel.pages.weave.room import CONTENTS, RoomHere, room_in, styled
from sarvel.pages.weave.surroundings import UNKNOWN, Around

# What component frameworks and shadow trees read on an element to tell whether, how often or where it is there.
_MOVED = ("v-if", "v-else-if", "v-else", "v-for", "v-slot", "key", ":key", "v-bind:key", "slot", "x-if", "x-for")
_OPENINGS = frozenset("{<@$'")  # of code, in any dialect
_AROUND = 200  # letters in which the edge of a block is looked for
_BLOCKS = (
    "address|article|aside|blockquote|body|br|center|dd|div|dl|dt|fieldset|figcaption|figure|footer|form|h[1-6]|header|hr|html|li"
    "|main|nav|ol|p|section|table|tbody|td|tfoot|th|thead|tr|ul"
)  # HTML, section 15.3: elements that stylesheets of browsers display as blocks, and cells of tables
_EDGE_BEFORE = re.compile(rf"(?:\A|[\r\n]|</?(?:{_BLOCKS})(?:\s[^<>]*)?>)[ \t]*\Z", re.IGNORECASE)
_EDGE_BEHIND = re.compile(rf"[ \t]*(?:\Z|[\r\n]|</?(?:{_BLOCKS})[\s>])", re.IGNORECASE)
_SET_ASIDE = {author: ours for ours, author in MASTERS.items()}
_CAMEL = {"srcset": "srcSet", "fetchpriority": "fetchPriority"}


def render_block(
    page: str, block: Block, markup: Markup, alt: str | None, dialect: Dialect = HTML, around: Around = UNKNOWN
) -> str:
    """The finished text of a block.

    Args:
        page: the page that it is in, for its line ends.
        around: facts of the page's styles there.
        alt: the words to write in place of the author's, if there are any; None leaves these.
    """
    line = None if block.one_line else line_end(page) + block.indent
    apart = line is not None and _stands_apart(page, block)
    said = None if has_words(block) else alt

    def written(mark: str) -> str:
        text = _written_out(
            block.image,
            markup,
            said,
            line,
            dialect,
            mark=mark,
            line_break=block.line_break,
            apart=apart,
            around=Around(plain=True, bare=around.bare) if block.picture else around,
            picture=block.picture.removesuffix(">").rstrip(),
        )
        if block.within == "p":
            return text.join(PARAGRAPH)
        if block.within == "picture" and not markup.sources:
            return f"{_opening(markup, dialect, around)}>{text}</picture>"
        return text

    return written(mark_of(written(""), dialect))


def _stands_apart(page: str, block: Block) -> bool:
    """Tells whether white space in a picture shows no gap: at the ends of a line or of a block it collapses.

    That is CSS Text 3, section 4.1.1; in preformatted text it does not.
    """
    before, behind = page[max(0, block.start - _AROUND) : block.start], page[block.end : block.end + _AROUND]
    if not (_EDGE_BEFORE.search(before) and _EDGE_BEHIND.match(behind)):
        return False
    return page.rfind("<pre", 0, block.start) <= page.rfind("</pre", 0, block.start)


def has_words(block: Block) -> bool:
    """Tells whether an image has an alt of its own, even an empty one; a file name does not count."""
    return block.alt is not None and not names_a_file(block.alt, block.src or "")


def standing_alone(
    markup: Markup, alt: str | None, tag: str = "<img>", dialect: Dialect = HTML, line: str = "\n", others: str = ""
) -> str:
    """The markup without what weaving again needs, for partials and single images.

    Args:
        alt: the words; None if the tag has them.
        tag: an img to put the rest into.
        line: what a new line begins with.
    """
    return _written_out(tag, markup, alt, None if dialect.one_line else line, dialect, others=others, alone=True)


def plain(markup: Markup, alt: str | None) -> str:
    """The markup as people write it, for no page in particular: its stylesheets may count elements by their place.

    Args:
        alt: the words; None writes none.
    """
    tag = "<img>" if alt is None else f'<img alt="{escaped(alt)}">'
    return _written_out(tag, markup, None, "\n", HTML, alone=True, apart=True, around=Around(plain=True))


def in_text(markup: Markup, tag: str) -> str:
    """The markup that a partial adds to a paragraph of Markdown, which neither a line end nor a lone img may end."""
    dialect = DIALECTS["markdown"]
    written = standing_alone(markup, None, tag, dialect)
    return written if markup.sources else f"{_opening(markup, dialect, UNKNOWN)}>{written}</picture>"


def _written_out(
    tag: str,
    markup: Markup,
    alt: str | None,
    line: str | None,
    dialect: Dialect,
    *,
    mark: str = "",
    others: str = "",
    line_break: str = "",
    alone: bool = False,
    apart: bool = False,
    around: Around = UNKNOWN,
    picture: str = "",
) -> str:
    """An img, in a picture where it has sources.

    Args:
        tag: the img as its author wrote it.
        alt: the words to add; None adds none.
        line: what a new line begins with: the line end before it, and the indentation; None keeps all on one line.
        mark: of the block; "" for none.
        line_break: what follows the opening tag of a picture.
        alone: whether nothing is to be woven again here.
        apart: whether white space may stand between the elements.
        around: facts of the page's styles there.
        picture: the author's start tag of a picture, less its end; "" for none.
    """
    gap, inner = ("", " ") if line is None else (line + "  ", line + ("    " if markup.sources else "  "))
    author = _read(tag, dialect)
    moved = _moved(tag, author) if markup.sources else []
    room = room_in(author, markup, bare=around.bare and markup.style)
    style = styled(author, {**room.style, "background": markup.background}, dialect) if markup.style else ""
    instead = [name for name, ours in (("style", style), ("alt", alt)) if ours is not None and (ours or name == "alt")]
    set_aside = ("srcset", "sizes", *room.aside, *instead, *(name for name, _ in moved))
    bound = (form + name for form in BOUND for name in ("srcset", "sizes", *room.aside))
    ours = _image_attributes(author, markup, room, [alt, style], dialect)
    ours += [others] if others else []
    image = with_ours(tag, ours, inner, (*set_aside, *bound), dialect, mark=mark, drops=alone)
    if not markup.sources:
        return f"{picture}>{image}</picture>" if picture else image
    opening = " ".join([picture or _opening(markup, dialect, around), *(text for _, text in moved)])
    written = [_source(one, inner, dialect, sized=room.on_sources, plain=around.plain) for one in markup.sources]
    if apart:
        end = " />" if dialect.closed else ">"
        return gap.join([f"{opening}>", *(f"{source}{end}" for source in written), image]) + f"{line}</picture>"
    end = "/>" if dialect.closed else ">"
    sources = "".join(f"{source}{gap}{end}" for source in written)
    return f"{opening}{gap}>{line_break}{sources}{image}</picture>"


def _opening(markup: Markup, dialect: Dialect, around: Around) -> str:
    """The opening tag of a picture, less its end."""
    return f"<picture {CONTENTS[dialect.style]}" if markup.style and not around.plain else "<picture"


def _moved(tag_text: str, tag: Tag) -> list[tuple[str, str]]:
    """Attributes that belong on the outermost element: names in lower case, and their text."""
    return [(one.name.lower(), tag_text[one.start : one.end]) for one in tag.attributes if one.name.lower() in _MOVED]


def _read(tag_text: str, dialect: Dialect) -> Tag:
    tag = read_tag(tag_text, 0, dialect.code)
    if tag is None:  # pragma: no cover - it was a tag before attributes were renamed
        raise AssertionError(tag_text)
    return tag


def with_ours(
    tag_text: str,
    ours: list[str],
    line: str,
    set_aside: Container[str],
    dialect: Dialect,
    *,
    mark: str | None = None,
    drops: bool = False,
) -> str:
    """The author's img with contradicting attributes set aside, or left out, and ours put behind the last.

    Args:
        mark: of the block; None in a call of the component.
    """
    tag = _read(tag_text, dialect)
    parts, at, first_src = [], 0, tag.get("src") or next(filter(None, map(tag.get, MASTERS.values())), None)
    for attribute in tag.attributes:
        name, behind = attribute.name, behind_name(tag_text, attribute)
        if attribute is first_src and mark is None:
            name = recased("data-master", 5, name)
        elif attribute is first_src:
            name = recased(MARK, 5, name) if name.lower() == "src" else _SET_ASIDE[name.lower()]
            behind = marked(behind, mark or "")
        elif drops and name.lower() in set_aside:
            parts.append(tag_text[at : attribute.start].rstrip())
            at = attribute.end
            continue
        elif name == "style" and name in set_aside and behind.startswith("={"):
            value = escaped(behind[1:])  # as words: an object would reach the page as one
            parts += [tag_text[at : attribute.start], f'{WAS_OBJECT}="{value}"']
            at = attribute.end
            continue
        elif name.lower() == "src" or name.lower() in set_aside:
            name = WAS + name
        parts += [tag_text[at : attribute.start], name, behind]
        at = attribute.end
    return with_attributes("".join([*parts, tag_text[at:]]), ours, dialect, line)


def _image_attributes(
    author: Tag, markup: Markup, room: RoomHere, texts: Sequence[str | None], dialect: Dialect
) -> list[str]:
    """Our attributes of the img, grouped as lines. What the author says of loading stays the author's.

    Args:
        author: the img as its author wrote it.
        room: how room is kept for it here.
        texts: the words to add, None for none; the style attribute, whole.
    """
    alt, style = texts
    said = {attribute.name.lower().removeprefix("v-bind").removeprefix(":") for attribute in author.attributes}
    said -= {"alt"}
    wanted = {
        "loading": "eager" if markup.eager else "lazy",
        "decoding": "async",
        "fetchpriority": "high" if markup.urgent else None,
        "alt": alt,
    }
    lines = [
        _written(dialect, src=markup.src),
        *_candidates(markup.image, dialect, room.size),
        _written(dialect, **{name: value for name, value in wanted.items() if name not in said}),
        style or "",
    ]
    return [line for line in lines if line]


def _source(source: Source, line: str, dialect: Dialect, *, sized: bool, plain: bool) -> str:
    conditions = _written(dialect, media=source.media, type=source.type)
    size = {"width": str(source.width), "height": str(source.height)} if sized else {}
    hidden = (
        'hidden="hidden"' if dialect.closed and dialect.style == "text" else "hidden"
    )  # else, in a grid, each would be a cell of its own
    start = f"<source {conditions}" if plain else f"<source {conditions} {hidden}"
    return line.join([start, *_candidates(source, dialect, size)])


def _candidates(source: Source, dialect: Dialect, size: Mapping[str, str]) -> list[str]:
    """The lists of a source or an img, and its width and height, as lines."""
    behind = " ".join(filter(None, (_written(dialect, sizes=source.sizes), _written(dialect, **size))))
    return [_written(dialect, srcset=source.srcset), *([behind] if behind else [])]


def _value(value: str | None, dialect: Dialect) -> str:
    """A value, escaped but for the author's code in it, which an engine reads as it stands."""
    if not value or not _OPENINGS & set(value):
        return escaped(value)
    parts, at, start = [], 0, 0
    while at < len(value):
        end = dialect.code(value, at) if value[at] in _OPENINGS else at
        if end > at:
            parts += [escaped(value[start:at]), value[at:end]]
            start = end
        at = max(at + 1, end)
    return "".join([*parts, escaped(value[start:])])


def _written(dialect: Dialect, **attributes: str | None) -> str:
    """Attributes as HTML writes them; empty ones are left out, except alt, which then says that it is decoration."""
    return " ".join(
        attribute(_CAMEL.get(name, name) if dialect.camel else name, value, dialect)
        for name, value in attributes.items()
        if value or (name == "alt" and value is not None)
    )


def attribute(name: str, value: str | None, dialect: Dialect) -> str:
    """An attribute as a dialect spells it."""
    if name == "alt":
        said = literal(value or "")
        if dialect.name == "php":  # it may be in a text of the code, between single quotes
            said = said.replace("'", "&#39;").replace("\\", "&#92;")
        return f'{name}="{said}"'
    if value and "${" in value and dialect.code is braces:
        return f"{name}={{`{value}`}}"
    return f'{name}="{_value(value, dialect)}"'
