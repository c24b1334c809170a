"""Mentions of a page as their author wrote them, woven or not: attributes, JSON-LD, icons of a manifest. Text in, text out.

An attribute is set aside (see `set_aside`); behind a link to an icon further links of ours may follow. In JSON, the author's
words are kept as JSON: of JSON-LD in an attribute of its script, of a manifest in a member of the first icon.

    <script type="application/ld+json" data-woven-json="[…]#MARK">{"image": "https://…"}</script>
    "icons": [{"src": "…", "sizes": "192x192", "data-woven": "[…]#MARK"}, …]
"""

from __future__ import annotations

import heapq
import json
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from sarvel.core.html.dialect import Dialect
from sarvel.core.html.json_values import json_values
from sarvel.core.html.markdown_links import MarkdownLink, bare, link_at
from sarvel.core.html.master_attribute import MARK, unmarked
from sarvel.core.html.mentions import (
    Mention,
    Part,
    Use,
    content_of,
    elements_in,
    is_linked_data,
    links_of_markdown,
    mention_of,
    mentions_in_data,
    mentions_in_manifest,
)
from sarvel.core.html.tags import Tag, Wanted, read_tag
from sarvel.pages.restore.marks import digest_of
from sarvel.pages.restore.set_aside import ASIDE, author_tag, set_aside

OF_DATA = f"{ASIDE}json"
_LINK_END = re.compile(r"</a(?:rea)?(?=[\s>])", re.IGNORECASE)
_CHANGED = "what Sarvel wrote was changed by hand"


@dataclass(frozen=True)
class Mentioned:
    """A place of a page that names images other than by an img.

    Attributes:
        start: where it begins, in the text.
        end: where it ends, with what Sarvel wrote behind it.
        author: the text of that, as its author wrote it.
        urls: the addresses that its author wrote, each once.
        tag: its start tag, as it stands; None in a manifest.
        slot: the slot that it names; None if it names none.
        part: the property of the image for sharing before it; "" for addresses.
        style: of a background, the author's style, character references resolved.
        around: of a link, where its content starts and ends.
        fault: why it can neither be woven nor restored, in words; "" if it can.
    """

    start: int
    end: int
    author: str
    use: Use
    urls: tuple[str, ...]
    tag: Tag | None = None
    slot: str | None = None
    part: Part = ""
    style: str = ""
    around: tuple[int, int] = (0, 0)
    fault: str = ""


def mentioned_in(page: str, dialect: Dialect) -> Iterator[Mentioned]:
    """The mentions of a page, woven or not, in order."""
    if dialect.name == "json":
        yield from _icons(page)
        return
    links = map(_link, links_of_markdown(page, dialect))
    wanted = elements_in(page)
    in_tags = _in_tags(page, dialect, wanted) if wanted else ()
    yield from heapq.merge(links, in_tags, key=lambda one: one.start)


def _link(link: MarkdownLink) -> Mentioned:
    """A link of Markdown."""
    author = link.author or link.address
    is_whole = link.author is None or link.mark == digest_of([bare(link.address)])
    return Mentioned(
        link.start,
        link.end,
        f"{author}{link.rest}",
        "link",
        (bare(author),),
        around=link.words,
        fault="" if is_whole else _CHANGED,
    )


def link_woven(author: str, address: str) -> str:
    """What the address of a link in Markdown becomes, with all up to its parenthesis."""
    link = link_at(author, 0)
    if link is None:  # pragma: no cover - it was read by that
        return author
    written = address.replace("(", "%28").replace(")", "%29")
    return f"{written}{link.rest}<!--woven:{link.address}#{digest_of([written])}-->"


def _in_tags(page: str, dialect: Dialect, wanted: frozenset[str]) -> Iterator[Mentioned]:
    shared, icon = "", None  # the last image for sharing; the icon that is not told of yet
    for tag in dialect.tags(page, Wanted(wanted)):
        if tag.closing or tag.name not in wanted or tag.short:
            continue
        if icon:
            if tag.name == "link" and tag.get(MARK) and tag.get("href") and not page[icon[-1].end : tag.start].strip():
                icon.append(tag)
                continue
            yield from _attribute(page, icon, "", dialect)
            icon = None
        if is_linked_data(tag):
            yield from _data(page, tag)
        elif tag.name == "link" and set_aside(tag):
            icon = [tag]
        else:
            for one in _attribute(page, [tag], shared, dialect):
                shared = one.urls[0] if one.use == "share" and not one.part else shared
                yield one
    if icon:
        yield from _attribute(page, icon, "", dialect)


def _attribute(page: str, tags: Sequence[Tag], shared: str, dialect: Dialect) -> Iterator[Mentioned]:
    """The mention in a tag.

    Args:
        tags: the tag, and links of ours that follow it.
        shared: the image for sharing before it.
    """
    first, author, is_whole = tags[0], page[tags[0].start : tags[0].end], True
    if set_aside(first):
        author, is_whole = author_tag(page, first, [told_of(one) for one in tags[1:]])
    tag = read_tag(author, 0, dialect.code) if author != page[first.start : first.end] else first.moved(-first.start)
    found = mention_of(tag) if tag else None
    if tag is None or found is None or (found.part and not shared):
        return
    said = tag.get("data-sarvel")
    url = shared if found.part else found.url
    end = _LINK_END.search(page, first.end) if found.use == "link" else None
    yield Mentioned(
        first.start,
        tags[-1].end,
        author,
        found.use,
        (url,),
        first,
        said.value if said else None,
        found.part,
        around=(first.end, end.start()) if end else (0, 0),
        fault="" if is_whole else _CHANGED,
    )


def told_of(link: Tag) -> str:
    """The attributes of a link that Sarvel wrote, as text that its mark covers."""
    return "\0".join(f"{one.name.lower()}={one.value}" for one in link.attributes)


def _data(page: str, script: Tag) -> Iterator[Mentioned]:
    """The mentions in JSON-LD."""
    text, start = content_of(page, script)
    found = list(mentions_in_data(text))
    if not found:
        return
    kept, is_whole = script.get(OF_DATA), True
    opening = page[script.start : script.end]
    if kept:
        said, mark = unmarked(kept.value)
        words = _author_words(said, len(found))
        ours = [text[one.start : one.end] for one, word in zip(found, words, strict=False) if word is not None]
        is_whole = bool(words) and mark == digest_of(ours)
        text = with_words(text, found, words) if words else text
        opening = page[script.start : kept.start].rstrip() + page[kept.end : script.end]
    urls = tuple(dict.fromkeys(one.url for one in mentions_in_data(text) if not one.part))
    slot = script.get("data-sarvel")
    yield Mentioned(
        script.start,
        start + len(content_of(page, script)[0]),
        opening + text,
        "share",
        urls,
        script,
        slot.value if slot else None,
        fault="" if is_whole else _CHANGED,
    )


def _author_words(kept: str, count: int) -> list[str | None]:
    """The words of JSON-LD that its author wrote; none if they are not as many as the places."""
    said = [kept[one.start : one.end] for one in json_values(kept) if len(one.path) == 1]
    return [None if word == "null" else word for word in said] if len(said) == count else []


def with_words(text: str, places: Sequence[Mention], words: Sequence[str | None]) -> str:
    """A JSON text with some places replaced, in order; None keeps a place."""
    parts, at = [], 0
    for place, word in zip(places, words, strict=True):
        parts += [text[at : place.start], text[place.start : place.end] if word is None else word]
        at = place.end
    return "".join([*parts, text[at:]])


def _icons(page: str) -> Iterator[Mentioned]:
    """The icons of a manifest: the list is one place."""
    array = next((one for one in json_values(page) if one.path == ("icons",) and page[one.start] == "["), None)
    if array is None:
        return
    text = page[array.start : array.end]
    icons = json.loads(text)
    kept = icons[0].get(MARK) if icons and isinstance(icons[0], dict) else None
    author, is_whole = text, True
    if isinstance(kept, str):
        author, mark = unmarked(kept)
        is_whole = mark == mark_of_icons(icons) and _is_list(author)
        author = author if is_whole else text
    urls = tuple(dict.fromkeys(one.url for one in mentions_in_manifest(f'{{"icons": {author}}}')))
    found = Mentioned(array.start, array.end, author, "icon", urls, fault="" if is_whole else _CHANGED)
    yield found if urls else replace(found, urls=("",))


def mark_of_icons(icons: Sequence[object]) -> str:
    """The mark of a list of icons."""
    plain = [{key: said for key, said in one.items() if key != MARK} if isinstance(one, dict) else one for one in icons]
    return digest_of([json.dumps(plain, sort_keys=True)])


def _is_list(text: str) -> bool:
    try:
        return isinstance(json.loads(text), list)
    except ValueError:
        return False


def kept_data(words: Sequence[str | None], mark: str) -> str:
    """The attribute of a script that keeps its author's words."""
    said = ", ".join("null" if word is None else word for word in words)
    said = said.replace("&", "&amp;").replace("'", "&#39;")
    return f"{OF_DATA}='[{said}]#{mark}'"
