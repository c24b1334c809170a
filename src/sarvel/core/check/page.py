"""A page as checks see it: its images, its pictures and what belongs to them, each tag in its place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from sarvel.core.html.images import VOID
from sarvel.core.html.tags import Attribute, Tag, tags


@dataclass
class Image:
    """An img, and the sources that count for it.

    Attributes:
        tag: the img.
        sources: those of its picture that stand before it, in order.
        number: its place among the page's images, from 1.
    """

    tag: Tag
    sources: Sequence[Tag]
    number: int


@dataclass
class Picture:
    """A picture element and its children.

    Attributes:
        tag: its start tag.
        sources: its sources, in order.
        late: those behind its img.
        images: its images; there should be one.
    """

    tag: Tag
    sources: list[Tag] = field(default_factory=list)
    late: list[Tag] = field(default_factory=list)
    images: list[Tag] = field(default_factory=list)


@dataclass
class Page:
    """What a page holds of interest.

    Attributes:
        text: the page.
        images: in order.
        pictures: in order.
        strays: sources in no picture, and in no audio or video.
        metas: meta elements.
        whole: whether it is a page with a head, not a part of one.
    """

    text: str
    images: list[Image] = field(default_factory=list)
    pictures: list[Picture] = field(default_factory=list)
    strays: list[Tag] = field(default_factory=list)
    metas: list[Tag] = field(default_factory=list)
    whole: bool = False


def said(tag: Tag, name: str) -> str | None:
    """What an attribute says, character references resolved; None if it is not there."""
    found = tag.get(name)
    return found.value if found else None


def place(tag: Tag, name: str) -> tuple[int, int]:
    """Where an attribute stands; the tag, if it is not there."""
    found: Attribute | None = tag.get(name)
    return (found.start, found.end) if found else (tag.start, tag.end)


def read_page(text: str) -> Page:
    """Reads a page."""
    page = Page(text)
    inside: list[str] = []  # open elements within the open picture, itself first
    media: list[str] = []  # open audio and video elements, whose sources are none of ours
    for tag in tags(text):
        page.whole = page.whole or tag.name == "head"
        if tag.name in ("audio", "video"):
            media = media[:-1] if tag.closing else [*media, tag.name]
        elif tag.closing:
            inside = inside[: inside.index(tag.name)] if tag.name in inside else inside
        elif tag.name == "picture":
            inside = ["picture"]
            page.pictures.append(Picture(tag))
        elif not (tag.name == "source" and media):
            _put(page, tag, inside)
    return page


def _put(page: Page, tag: Tag, inside: list[str]) -> None:
    """Puts a start tag where it belongs."""
    if tag.name == "source":
        _source(page, tag, child=inside == ["picture"])
    elif tag.name == "img":
        sources = page.pictures[-1].sources if inside == ["picture"] else ()
        page.images.append(Image(tag, tuple(sources), len(page.images) + 1))
        if inside:
            page.pictures[-1].images.append(tag)
    elif tag.name == "meta":
        page.metas.append(tag)
    elif inside and tag.name not in VOID:
        inside.append(tag.name)


def _source(page: Page, tag: Tag, *, child: bool) -> None:
    if not child:
        page.strays.append(tag)
    elif page.pictures[-1].images:
        page.pictures[-1].late.append(tag)
    else:
        page.pictures[-1].sources.append(tag)
