"""Attributes that are set aside: on elements other than img, the author's value is kept next to ours. Text in, text out.

    <a class="full" href="masters/boat.jpg">                                                     the author's tag
    <a class="full" data-woven-href="masters/boat.jpg#MARK" href="pictures/boat-1600.0f3c.jpg">  the same, woven

The mark tells whether anyone changed ours since (see `marks`).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from sarvel.core.html.master_attribute import MARK, MASTERS, marked, unmarked
from sarvel.core.html.tags import Attribute, Tag
from sarvel.pages.restore.marks import digest_of

ASIDE = f"{MARK}-"
_ALONE = ("sizes", "type")  # of a link to an icon: ours, though its author may have none


def set_aside(tag: Tag) -> list[Attribute]:
    """The author's attributes that are set aside in a tag."""
    return [one for one in tag.attributes if one.name.lower().startswith(ASIDE) and one.name.lower() not in MASTERS]


def author_tag(page: str, tag: Tag, more: Sequence[str] = ()) -> tuple[str, bool]:
    """A woven tag as its author wrote it, and whether all of ours is as it was written.

    Args:
        more: further text of ours under the same mark.
    """
    aside = set_aside(tag)
    ours = _ours(tag, aside)
    parts, at, mark = [], tag.start, None
    for attribute in tag.attributes:
        between, text = page[at : attribute.start], page[attribute.start : attribute.end]
        if attribute in aside:
            behind = text[len(attribute.name) :]
            if attribute is aside[0]:
                behind, mark = unmarked(behind)
            parts += [between, _author_name(attribute.name), behind]
        elif attribute in ours:
            parts.append(between.rstrip())
        else:
            parts += [between, text]
        at = attribute.end
    told = _told({one.name: one.value for one in ours}, more)
    return "".join([*parts, page[at : tag.end]]), mark == digest_of(told)


def _ours(tag: Tag, aside: Iterable[Attribute]) -> list[Attribute]:
    is_icon = tag.name == "link" and "icon" in tag.values().get("rel", "").lower()
    names = {_author_name(one.name).lower() for one in aside} | {*(_ALONE if is_icon else ())}
    return [one for one in tag.attributes if one.name.lower() in names]


def _author_name(name: str) -> str:
    """The author's name of an attribute; one with a colon was written without, as XML wants it."""
    author = name[len(ASIDE) :]
    return f"{author[:5]}:{author[6:]}" if author.lower() == "xlink-href" else author


def _told(ours: Mapping[str, str], more: Sequence[str]) -> list[str]:
    return [*(f"{name.lower()}={value}" for name, value in ours.items()), *more]


def with_ours(author: str, tag: Tag, ours: Mapping[str, str], written: Sequence[str], more: Sequence[str] = ()) -> str:
    """A start tag with some attributes of ours; the author's of these names are set aside.

    Args:
        author: the tag as its author wrote it; it has the first of ours.
        tag: the same, read by itself.
        ours: their values, as a browser reads them, by name; a name as the author spells it, if it is there.
        written: the same as text, ready to be put into the tag.
        more: further text of ours under the same mark.
    """
    mark = digest_of(_told(ours, more))
    names = [name.lower() for name in ours]
    parts, at, is_first = [], 0, True
    for attribute in tag.attributes:
        if attribute.name.lower() in names and attribute is tag.get(attribute.name.lower()):
            behind = author[attribute.start + len(attribute.name) : attribute.end]
            name = f"{ASIDE}{attribute.name.replace(':', '-')}"
            parts += [author[at : attribute.start], name, marked(behind, mark) if is_first else behind]
            at, is_first = attribute.end, False
    last = tag.attributes[-1].end
    return "".join([*parts, author[at:last], *(f" {one}" for one in written), author[last:]])
