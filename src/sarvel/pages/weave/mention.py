"""Mentions woven: the text that a link, a poster, an image for sharing, an icon or a background becomes."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sarvel.core.address.address import Address
from sarvel.core.edition.compose import Picture
from sarvel.core.html.dialect import Dialect
from sarvel.core.html.master_attribute import MARK
from sarvel.core.html.mentions import Mention, mention_of, mentions_in_data
from sarvel.core.html.tags import Tag, read_tag
from sarvel.core.markup.backgrounds import background_files
from sarvel.core.markup.one_file import NamedFile, at_least, named_files
from sarvel.core.quoted import escaped
from sarvel.pages.restore.background_tags import style_with, style_with_file
from sarvel.pages.restore.marks import digest_of
from sarvel.pages.restore.mention_tags import Mentioned, kept_data, link_woven, mark_of_icons, told_of, with_words
from sarvel.pages.restore.set_aside import with_ours
from sarvel.pages.restore.style_urls import url_woven
from sarvel.pages.weave.write import attribute

_TAB, _HOME, _LARGE = 32, 180, 192
_SIZE = re.compile(r"\s*(\d+)x\d+", re.IGNORECASE)
_INSTALLED = (192, 512)  # of a web app, where its manifest asks for no size


@dataclass(frozen=True)
class Where:
    """Where a mention is.

    Attributes:
        before: the text of the page before it.
        has_home: whether the page has an icon of its own for home screens.
    """

    dialect: Dialect
    before: str
    has_home: bool


def mention_woven(found: Mentioned, pictures: Mapping[str, tuple[Picture, Address]], where: Where) -> str:
    """The text that a mention becomes.

    Args:
        pictures: pictures of the images that it names, and their addresses, by the author's address.
    """
    if found.tag is None or found.author.lower().startswith("<script"):
        return _in_text(found, pictures, where)
    tag = read_tag(found.author, 0, where.dialect.code)
    said = mention_of(tag) if tag else None
    picture, address = pictures[found.urls[0]]
    if tag and found.style:
        is_set = found.use == "background"
        one = named_files(picture, address)[-1].url
        style = (
            style_with(found.style, background_files(picture, address)) if is_set else style_with_file(found.style, one)
        )
        return _tag(found.author, tag, {"style": style}, where)
    if tag is None or said is None:  # pragma: no cover - that is how it was found
        return found.author
    files_ = named_files(picture, address)
    if found.use == "icon":
        return _icon_links(found.author, tag, said, files_, where)
    value = _part(found, said, files_[-1], picture) if found.part else files_[-1].url
    return _tag(found.author, tag, {said.name: value}, where) if value != said.url else found.author


def _in_text(found: Mentioned, pictures: Mapping[str, tuple[Picture, Address]], where: Where) -> str:
    """A mention in JSON, in a stylesheet, or in Markdown."""
    files = {url: named_files(*pair) for url, pair in pictures.items()}
    if found.use == "style":
        url = files[found.urls[0]][-1].url
        return url_woven(found.author, url)
    if found.use == "link":
        return link_woven(found.author, files[found.urls[0]][-1].url)
    return (_data if found.tag else _icons)(found.author, files, where)


def _part(found: Mentioned, said: Mention, file: NamedFile, picture: Picture) -> str:
    """The value of a property of an image for sharing."""
    match found.part:
        case "width":
            return str(file.width)
        case "height":
            return str(file.height)
        case "type":
            return file.type
    return picture.alt or said.url


def _tag(author: str, tag: Tag, ours: Mapping[str, str], where: Where, more: Sequence[str] = ()) -> str:
    written = [attribute(name, value, where.dialect) for name, value in ours.items()]
    return with_ours(author, tag, ours, written, more)


def _icon_links(author: str, tag: Tag, said: Mention, files: list[NamedFile], where: Where) -> str:
    """The links of an icon: of the size that its author says; else a tab's, a larger one, and that of home screens."""
    values = tag.values()
    is_home = "apple-touch" in values.get("rel", "").lower()
    size = _SIZE.match(values.get("sizes", ""))
    if size or is_home:
        first, others = at_least(files, int(size[1]) if size else _HOME), []
    else:
        first, wanted = at_least(files, _TAB), [("icon", at_least(files, _LARGE))]
        wanted += [] if where.has_home else [("apple-touch-icon", at_least(files, _HOME))]
        others = [_link(rel, file, where.dialect) for rel, file in wanted if file.width > first.width]
    ours = {said.name: first.url, "sizes": f"{first.width}x{first.height}", "type": first.type}
    told = [told_of(link) for text in others if (link := read_tag(text, 0, where.dialect.code))]
    last_line = re.split(r"[\r\n]", where.before)[-1]
    line = "" if where.dialect.one_line else ("\r\n" if "\r\n" in where.before else "\n") + last_line
    gap = line if not last_line.strip() else ""
    return gap.join([_tag(author, tag, ours, where, told), *others])


def _link(rel: str, file: NamedFile, dialect: Dialect) -> str:
    begin, end = (f'<link {MARK}=""', " />") if dialect.closed else (f"<link {MARK}", ">")
    size = f"{file.width}x{file.height}"
    return f'{begin} rel="{rel}" href="{escaped(file.url)}" sizes="{size}" type="{file.type}"{end}'


def _data(author: str, files: Mapping[str, list[NamedFile]], where: Where) -> str:
    """A script of JSON-LD, its start tag with what its author wrote."""
    tag = read_tag(author, 0, where.dialect.code)
    if tag is None:  # pragma: no cover - it was read from the page
        return author
    text = author[tag.end :]
    found = list(mentions_in_data(text))
    by_object = {one.path[:-1]: files[one.url][-1] for one in found if not one.part and one.url in files}
    words = [_word(one, files, by_object, text) for one in found]
    new = with_words(text, found, words)
    author_words = [
        text[one.start : one.end] if word is not None else None for one, word in zip(found, words, strict=True)
    ]
    mark = digest_of([word for word in words if word is not None])
    last = tag.attributes[-1].end
    return f"{author[:last]} {kept_data(author_words, mark)}{author[last : tag.end]}{new}"


def _word(
    one: Mention, files: Mapping[str, list[NamedFile]], by_object: Mapping[Any, NamedFile], text: str
) -> str | None:
    """The JSON that takes a place; None if that keeps its own."""
    if not one.part:
        return json.dumps(files[one.url][-1].url, ensure_ascii=False) if one.url in files else None
    file = by_object.get(one.path[:-1])
    if file is None:
        return None
    px = file.width if one.part == "width" else file.height
    return f'"{px}"' if text[one.start] == '"' else str(px)


def _icons(author: str, files: Mapping[str, list[NamedFile]], where: Where) -> str:
    """A list of icons: those with a master in the size that the author gives, else in the sizes that browsers install."""
    icons: list[Any] = []
    for one in json.loads(author):
        mine = files.get(one.get("src", "")) if isinstance(one, dict) else None
        if mine is None:
            icons.append(one)
            continue
        size = _SIZE.match(str(one.get("sizes", "")))
        chosen = {at_least(mine, px).url: at_least(mine, px) for px in ((int(size[1]),) if size else _INSTALLED)}
        icons += [
            {**one, "src": file.url, "sizes": f"{file.width}x{file.height}", "type": file.type}
            for file in chosen.values()
        ]
    icons = [json.loads(text) for text in dict.fromkeys(json.dumps(one) for one in icons)]
    if isinstance(icons[0], dict):
        icons[0] = {**icons[0], MARK: f"{author}#{mark_of_icons(icons)}"}
    return _written_list(icons, author, where.before)


def _written_list(icons: Sequence[object], author: str, before: str) -> str:
    """A list of JSON, an icon a line where its author wrote lines."""
    told = [json.dumps(one, ensure_ascii=False) for one in icons]
    if "\n" not in author:
        return f"[{', '.join(told)}]"
    last = before.rpartition("\n")[2]
    indent = last[: len(last) - len(last.lstrip())]
    return "[\n" + ",\n".join(f"{indent}  {one}" for one in told) + f"\n{indent}]"
