"""Where the images of a page are: alone, in a picture that Sarvel wrote, or in one by hand."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from sarvel.core.html.master_attribute import master_of
from sarvel.core.html.tags import Tag, is_call
from sarvel.notices import Kind, Notice
from sarvel.pages.restore import marks

_END_TAG = re.compile(r"\s*</img\s*>", re.IGNORECASE)

PARAGRAPH = ('<p data-woven="">', "</p>")
"""Written around an image that makes up a whole paragraph, in dialects where tags alone do not make a paragraph."""

_SPACED = 200  # letters in which that element is looked for
_NESTED = Notice(
    Kind.IMAGE, "", "is in a picture element that is not closed, or holds several", "close it behind its one img"
)
_UNCLOSED = Notice(Kind.IMAGE, "", "its woven picture element is not closed", "write </picture> behind the img")

ImagePlace = tuple[int, int, Tag, Notice | None]
"""Start and end of a block, its img, and its fault."""


def image_places(page: str, tags: Iterable[Tag], *, mapped: bool) -> Iterator[ImagePlace]:
    """The places of images that name a slot, in order.

    Args:
        tags: images, pictures and calls of the component.
        mapped: whether images that name no slot count, too.
    """
    picture: _OpenPicture | None = None
    for tag in tags:
        if tag.name == "picture":
            if picture:
                yield from picture.places(page, tag if tag.closing else None, mapped=mapped)
            picture = None if tag.closing else _OpenPicture(tag)
        elif tag.closing:
            continue
        elif picture:
            picture.images.append(tag)
        elif _is_ours(tag) or mapped:
            yield *_in_paragraph(page, tag.start, tag.end + len(end_tag(page, tag))), tag, None
    if picture:
        yield from picture.places(page, None, mapped=mapped)


@dataclass
class _OpenPicture:
    """A picture element, and the images in it so far."""

    tag: Tag
    images: list[Tag] = field(default_factory=list)

    def places(self, page: str, end: Tag | None, *, mapped: bool) -> Iterator[ImagePlace]:
        """Its places, once its end tag is found, or is known to be missing."""
        woven = next(filter(is_woven, self.images), None)
        if woven and end:
            yield *_in_paragraph(page, self.tag.start, end.end), woven, None
        elif woven:
            yield self.tag.start, woven.end, woven, _UNCLOSED
        elif end and len(self.images) == 1 and (_is_ours(self.images[0]) or mapped):
            yield self.tag.start, end.end, self.images[0], None
        else:
            yield from ((one.start, one.end, one, _NESTED) for one in self.images if _is_ours(one))


def end_tag(page: str, image: Tag) -> str:
    """The end tag that directly follows an img, as languages that know no empty elements may have it; "" if none does."""
    found = _END_TAG.match(page, image.end)
    return found.group() if found and not page.startswith("/>", image.end - 2) else ""


def _in_paragraph(page: str, start: int, end: int) -> tuple[int, int]:
    """Start and end of a block, with the paragraph that was written around it, if one was; a formatter may have spaced it out."""
    before = page[max(0, start - _SPACED) : start].rstrip()
    behind = page[end : end + _SPACED]
    gap = len(behind) - len(behind.lstrip())
    if before.endswith(PARAGRAPH[0]) and behind.startswith(PARAGRAPH[1], gap):
        return max(0, start - _SPACED) + len(before) - len(PARAGRAPH[0]), end + gap + len(PARAGRAPH[1])
    return start, end


def is_own_call(tag: Tag) -> bool:
    """Tells whether an author has written a call of the component."""
    return is_call(tag) and not (tag.short or master_of(tag) or marks.kept_whole(tag))


def _is_ours(tag: Tag) -> bool:
    return tag.get("data-sarvel") is not None or is_woven(tag)


def is_woven(tag: Tag) -> bool:
    """Tells whether Sarvel wrote a tag."""
    return master_of(tag) is not None or marks.kept_whole(tag) is not None or (tag.short and is_call(tag))
