"""Documents: a page's images, its pictures and what belongs to them, for checks, surveys and picks."""

from __future__ import annotations

import functools
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

from sarvel.core.html.dialect import HTML, Dialect
from sarvel.core.html.images import ImageElement
from sarvel.core.html.master_attribute import master_of
from sarvel.core.html.mentions import Mention, mentions_in
from sarvel.core.html.tags import VOID, Attribute, Tag, Wanted
from sarvel.core.html.template_code import closing, holds_code

# Media Queries 4, section 2.3: types other than screen and all, deprecated ones too.
_OTHER_MEDIA = re.compile(
    r"\s*(?:only\s+)?(?:print|speech|aural|braille|embossed|handheld|projection|tty|tv)\b", re.IGNORECASE
)
_STYLE_END = re.compile(r"</style(?=[\s/>])", re.IGNORECASE)
_STYLED = re.compile(r"\bstyle\s*=[^>]*\burl\(", re.IGNORECASE)
_WANTED = Wanted(
    frozenset({"html", "head", "body", "meta", "link", "style", "picture", "source", "img", "audio", "video"}),
    whole=frozenset({"picture"}),  # where every element counts that stands around a source
)
_CONDITION = re.compile(
    r"\{%-?\s*(?:if|elif|elsif|elseif|else|endif|unless|endunless)\b(?:(?!%\}).)*%\}"
    r"|\{\{[-~]?\s*(?:[#/^]\s*(?:if|unless)|else|if|end)\b(?:(?!\}\}).)*\}\}",
    re.DOTALL,
)
_DOCTYPE = re.compile(r"\s*(?:<!--.*?-->\s*)*<!doctype\s+html", re.IGNORECASE | re.DOTALL)
_CALL = re.compile(r"@(?!media\b|import\b|supports\b|container\b|layer\b|scope\b)\w+\s*\(")  # no rule of CSS


@dataclass
class Image:
    """An img, and the sources that count for it.

    Attributes:
        sources: those of its picture that are before it, in order.
        number: its place among the page's images, from 1.
        slot: the slot that it is for; "" if nothing names one.
        master: the file that its author named, if it is woven; else "".
    """

    tag: Tag
    sources: Sequence[Tag]
    number: int
    slot: str = ""
    master: str = ""

    @property
    def tags(self) -> tuple[Tag, ...]:
        """The tags that a browser reads for it, in order."""
        return (*self.sources, self.tag)

    @property
    def is_ask(self) -> bool:
        """Tells whether it asks for a slot of the plan, and is not woven yet."""
        return self.tag.get("data-sarvel") is not None and not self.master

    @functools.cached_property
    def element(self) -> ImageElement:
        """The attributes that decide which file it fetches."""
        return ImageElement(self.tag.values(), tuple(source.values() for source in self.sources), self.tag.start)


@dataclass
class PictureElement:
    """A picture element and its children.

    Attributes:
        sources: its sources, in order.
        images: its images; there should be one.
    """

    tag: Tag
    sources: list[Tag] = field(default_factory=list)
    late: list[Tag] = field(default_factory=list)
    images: list[Image] = field(default_factory=list)

    @property
    def is_woven(self) -> bool:
        """Tells whether Sarvel wrote it."""
        return any(image.master for image in self.images)

    @property
    def end(self) -> int:
        """End offset of the last of its tags that count for an image."""
        return max(tag.end for tag in (self.tag, *self.sources, *self.late, *(image.tag for image in self.images)))


@dataclass
class Document:
    """A page, read.

    Attributes:
        images: in order.
        pictures: in order.
        strays: sources in no picture, and in no audio or video.
        styles: where the text of style elements begins, and the text.
        styled: other tags than img with a style attribute that names a file.
        frames: html, head and body tags.
        whole: whether it is a page, with or without a head tag, and not a part of one.
        code_in_head: whether a template engine writes a part of the head.
        dialect: how its tags are found and spelled.
    """

    text: str
    images: list[Image] = field(default_factory=list)
    pictures: list[PictureElement] = field(default_factory=list)
    strays: list[Tag] = field(default_factory=list)
    metas: list[Tag] = field(default_factory=list)
    links: list[Tag] = field(default_factory=list)
    styles: list[tuple[int, str]] = field(default_factory=list)
    styled: list[Tag] = field(default_factory=list)
    frames: list[Tag] = field(default_factory=list)
    whole: bool = False
    code_in_head: bool = False
    dialect: Dialect = HTML

    @functools.cached_property
    def mentions(self) -> list[Mention]:
        """The places other than these that name an image, in order."""
        return mentions_in(self.text, self.dialect)

    @property
    def sheets(self) -> list[str]:
        """The addresses of the stylesheets that it links to, less those for print alone and the like."""
        links = (link for link in self.links if "stylesheet" in (value_of(link, "rel") or "").lower().split())
        return [value_of(link, "href") or "" for link in links if not is_off_screen(value_of(link, "media"))]

    @property
    def woven(self) -> list[tuple[int, int]]:
        """Start and end offsets of the elements of images that Sarvel wrote, in order."""
        pictures = [picture for picture in self.pictures if picture.is_woven]
        inside = {image.number for picture in pictures for image in picture.images}
        lone = [image.tag for image in self.images if image.master and image.number not in inside]
        return sorted([*((one.tag.start, one.end) for one in pictures), *((tag.start, tag.end) for tag in lone)])


def is_off_screen(media: str | None) -> bool:
    """Tells whether media queries match no screen: each begins with another type of media."""
    return media is not None and all(map(_OTHER_MEDIA.match, media.split(",")))


def value_of(tag: Tag, name: str) -> str | None:
    """The value of an attribute, character references resolved; None if it is not there."""
    found = tag.get(name)
    return found.value if found else None


def span_of(tag: Tag, name: str) -> tuple[int, int]:
    """Start and end offset of an attribute; of the tag, if it is not there."""
    found: Attribute | None = tag.get(name)
    return (found.start, found.end) if found else (tag.start, tag.end)


def is_bound(tag: Tag, name: str) -> bool:
    """Tells whether an attribute is there, plain or bound to an expression by a component: `:alt`, `[alt]`, `x-bind:alt`."""
    return any(re.split(r"[:.]", one.name.lower().strip("[]"))[-1] == name for one in tag.attributes)


def has_more(text: str, tag: Tag) -> bool:
    """Tells whether a tag takes attributes that only the template engine knows."""
    if any(one.name.lower() in ("v-bind", "x-bind") for one in tag.attributes):
        return True
    if tag.end - tag.start < 3 or not set("{<@") & set(text[tag.start + 1 : tag.end]):
        return False
    ends = [tag.start, *(one.end for one in tag.attributes)]
    starts = [*(one.start for one in tag.attributes), tag.end]
    return any(
        set("{<@") & set(text[end + (end == tag.start) : start]) for end, start in zip(ends, starts, strict=True)
    )


def writes_more(text: str, tag: Tag) -> bool:
    """Tells whether a template engine may write attributes of its own into a tag; conditions alone write none."""
    ends = [tag.start + 1, *(one.end for one in tag.attributes)]
    starts = [*(one.start for one in tag.attributes), tag.end]
    gaps = "".join(text[end:start] for end, start in zip(ends, starts, strict=True))
    bound = any(one.name.lower() in ("v-bind", "x-bind") for one in tag.attributes)
    return bound or bool(set("{<@") & set(_CONDITION.sub("", gaps)))


def read_document(text: str, dialect: Dialect = HTML) -> Document:
    """Reads a page."""
    page = Document(text, dialect=dialect, whole=bool(_DOCTYPE.match(text)))
    inside = _Open()  # within the open picture, itself first
    media = 0  # audio and video elements that are open, whose sources are none of ours
    styled = "url(" in text and _STYLED.search(text)
    for tag in dialect.tags(text, None if styled else _WANTED):
        if tag.name in ("audio", "video"):
            media = max(0, media + (-1 if tag.closing else 1))
        elif tag.closing:
            inside.close(tag.name)
            if tag.name == "head":
                _end_head(page, tag.start)
        elif tag.name == "picture":
            inside = _Open("picture")
            page.pictures.append(PictureElement(tag))
        elif not (tag.name == "source" and media):
            _put(page, tag, inside)
    if page.whole and not any(tag.name == "head" for tag in page.frames):
        _end_head(page, _head_end(page))
    return page


def _head_end(page: Document) -> int:
    """Offset at which the head ends of a page that has no tag for it: where its body or its first image starts."""
    bodies = [tag.start for tag in page.frames if tag.name == "body"]
    return min([*bodies, *(image.tag.start for image in page.images), len(page.text)])


class _Open:
    """Elements that are open, by name, outermost first."""

    def __init__(self, *names: str) -> None:
        self.names = list(names)
        self._counts = Counter(names)

    def open(self, name: str) -> None:
        """Opens one."""
        self.names.append(name)
        self._counts[name] += 1

    def close(self, name: str) -> None:
        """Closes the innermost of a name and all within it; an end tag that belongs to none closes nothing."""
        while self._counts[name]:
            last = self.names.pop()
            self._counts[last] -= 1
            if last == name:
                return


def _end_head(page: Document, end: int) -> None:
    start = next((tag.end for tag in page.frames if tag.name == "head"), 0)
    head = page.text[start:end]
    page.code_in_head = holds_code(head) or bool(_CALL.search(head))


def _put(page: Document, tag: Tag, inside: _Open) -> None:
    """Puts a start tag where it belongs."""
    match tag.name:
        case "source":
            _source(page, tag, child=inside.names == ["picture"])
        case "img":
            sources = page.pictures[-1].sources if inside.names == ["picture"] else ()
            image = Image(
                tag,
                tuple(sources),
                len(page.images) + 1,
                value_of(tag, "data-sarvel") or "",
                master_of(tag) or "",
            )
            page.images.append(image)
            if inside.names:
                page.pictures[-1].images.append(image)
        case "meta":
            page.metas.append(tag)
        case "link":
            page.links.append(tag)
        case "html" | "head" | "body":
            page.frames.append(tag)
            page.whole = page.whole or tag.name in ("html", "head")
        case "style" if not is_off_screen(value_of(tag, "media")):
            _style(page, tag.end)
    if tag.name != "img" and tag.get("style"):
        page.styled.append(tag)
    if inside.names and tag.name not in VOID:
        inside.open(tag.name)


def _style(page: Document, start: int) -> None:
    """Keeps the text of a style element, to the end of the page if it is never closed; none begins within another."""
    behind = closing(page.text, start, _STYLE_END)
    end = behind - len("</style") if behind >= 0 else len(page.text)
    last = page.styles[-1] if page.styles else (0, "")
    if start >= last[0] + len(last[1]):
        page.styles.append((start, page.text[start:end]))


def _source(page: Document, tag: Tag, *, child: bool) -> None:
    if not child:
        page.strays.append(tag)
    elif page.pictures[-1].images:
        page.pictures[-1].late.append(tag)
    else:
        page.pictures[-1].sources.append(tag)
