"""Backgrounds in the page: elements whose style attribute names a file. Found, written and taken back. Text in, text out.

    <header class="top" style="background: url('masters/sea.jpg') center / cover">             the author's tag
    <header class="top" data-was-style="background: url('masters/sea.jpg') center / cover"     the same, its style set aside
      style="background: url(…) center / cover;background: image-set(…) center / cover" data-woven="…">

A plain file is before the set, for browsers that do not know it. The rest of the style is kept.
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterator
from dataclasses import dataclass

from sarvel.core.html.dialect import Dialect
from sarvel.core.html.master_attribute import MARK
from sarvel.core.html.tags import Attribute, Tag
from sarvel.core.html.template_code import holds_code
from sarvel.core.markup.backgrounds import BackgroundFiles
from sarvel.pages.restore.marks import digest_of

WAS_STYLE = "data-was-style"
_MAY_BE = re.compile(r"\bstyle\s*=[^>]*\burl\(", re.IGNORECASE)
_URL = re.compile(r"""url\(\s*(?:"([^"]*)"|'([^']*)'|([^\s"'()]+))\s*\)""", re.IGNORECASE)
_NO_ELEMENTS = frozenset({"img", "picture", "source", "svg"})
_PIECE = re.compile(r"""[^;"'()]+|"[^"]*"|'[^']*'|\((?:[^()"']|"[^"]*"|'[^']*')*\)|[;"'()]""")
_PROPERTIES = re.compile(r"\s*(?:background|background-image)\s*:", re.IGNORECASE)


@dataclass(frozen=True)
class Background:
    """An element whose style names a file.

    Attributes:
        tag: its start tag, as it stands.
        author: the text of that tag, as its author wrote it.
        style: the author's style, character references resolved.
        fault: why it can neither be woven nor restored, in words; "" if it can.
    """

    tag: Tag
    author: str
    style: str
    url: str
    fault: str = ""


def backgrounds_in(page: str, dialect: Dialect) -> Iterator[Background]:
    """The elements of a page whose style names one file, woven or not, in order."""
    if dialect.style == "object" or not _MAY_BE.search(page):
        return
    for tag in dialect.tags(page, None):
        if tag.closing or tag.name in _NO_ELEMENTS or tag.short:
            continue
        was, style = tag.get(WAS_STYLE), tag.get("style")
        said = was or style
        if said is None or holds_code(said.raw or "") or not (url := _only_url(said.value)):
            continue
        author = _author_tag(page, tag) if was else page[tag.start : tag.end]
        mark = tag.get(MARK)
        is_whole = not was or (style is not None and mark is not None and mark.value == digest_of([style.value]))
        yield Background(tag, author, said.value, url, "" if is_whole else "its style was changed by hand")


def _only_url(style: str) -> str:
    """The one file that a style names as a background; "" if it names none, or several."""
    parts = [part for part in _declarations(style) if _URL.search(part)]
    found = list(_URL.finditer(style))
    if len(parts) != 1 or len(found) != 1 or not _PROPERTIES.match(parts[0]):
        return ""
    url = next(group for group in found[0].groups() if group is not None).strip()
    return "" if url.startswith(("data:", "#")) else url


def _declarations(style: str) -> list[str]:
    """The declarations of a style, as written."""
    parts = [""]
    for piece in _PIECE.findall(style):
        if piece == ";":
            parts.append("")
        else:
            parts[-1] += piece
    return parts


def _author_tag(page: str, tag: Tag) -> str:
    """A woven tag as its author wrote it."""
    parts, at = [], tag.start
    for attribute in tag.attributes:
        between = page[at : attribute.start]
        name = attribute.name.lower()
        if name in ("style", MARK):
            parts.append(between.rstrip())
        else:
            text = page[attribute.start : attribute.end]
            parts += [between, text[len("data-was-") :] if name == WAS_STYLE else text]
        at = attribute.end
    return "".join([*parts, page[at : tag.end]])


def background_woven(author: str, tag: Tag, style: str, files: BackgroundFiles) -> str:
    """The start tag of an element with its background woven.

    Args:
        author: the tag as its author wrote it.
        tag: the same, read by itself.
        style: its style, character references resolved.
    """
    own: Attribute | None = tag.get("style")
    if own is None:  # pragma: no cover - it was found by its style
        return author
    written = ";".join(
        f"{_with(part, f'url({files.plain})')};{_with(part, files.set)}" if _URL.search(part) else part
        for part in _declarations(style)
    )
    ours = f' style="{html.escape(written, quote=False).replace(chr(34), "&quot;")}" {MARK}="{digest_of([written])}"'
    last = tag.attributes[-1].end
    return f"{author[: own.start]}data-was-{author[own.start : last]}{ours}{author[last:]}"


def _with(declaration: str, image: str) -> str:
    return _URL.sub(lambda _: image, declaration)
