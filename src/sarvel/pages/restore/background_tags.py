"""Backgrounds in the page: elements whose style attribute names a file, woven or not. Text in, text out.

    <header class="top" style="background: url('masters/sea.jpg') center / cover">                  the author's tag
    <header class="top" data-woven-style="background: url('masters/sea.jpg') center / cover#MARK"   the same, its style set aside
      style="background: url(…) center / cover;background: image-set(…) center / cover">

A plain file is before the set, for browsers that do not know it. The rest of the style is kept.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from sarvel.core.html.dialect import Dialect
from sarvel.core.html.mentions import SHOWING_ONE, Use
from sarvel.core.html.tags import read_tag
from sarvel.core.html.template_code import holds_code
from sarvel.core.markup.backgrounds import BackgroundFiles
from sarvel.pages.restore.mention_tags import Mentioned
from sarvel.pages.restore.set_aside import author_tag, set_aside

_MAY_BE = re.compile(r"\bstyle\s*=[^>]*\burl\(", re.IGNORECASE)
_URL = re.compile(r"""url\(\s*(?:"([^"]*)"|'([^']*)'|([^\s"'()]+))\s*\)""", re.IGNORECASE)
_NO_ELEMENTS = frozenset({"img", "picture", "source", "svg"})
_PIECE = re.compile(r"""[^;"'()]+|"[^"]*"|'[^']*'|\((?:[^()"']|"[^"]*"|'[^']*')*\)|[;"'()]""")
_PROPERTIES = re.compile(r"\s*(?:background|background-image)\s*:", re.IGNORECASE)


def backgrounds_in(page: str, dialect: Dialect) -> Iterator[Mentioned]:
    """The elements of a page whose style names one file, woven or not, in order."""
    if dialect.style == "object" or "url(" not in page.lower() or not _MAY_BE.search(page):
        return
    for tag in dialect.tags(page, None):
        if tag.closing or tag.name in _NO_ELEMENTS or tag.short or not tag.get("style"):
            continue
        author, is_whole = author_tag(page, tag) if set_aside(tag) else (page[tag.start : tag.end], True)
        read = read_tag(author, 0, dialect.code)
        style, slot = (read.get("style"), read.get("data-sarvel")) if read else (None, None)
        url, use = _only_url(style.value) if style else ("", "background")
        if style is None or holds_code(style.raw or "") or not url:
            continue
        fault = "" if is_whole else "its style was changed by hand"
        said = slot.value if slot else None
        yield Mentioned(tag.start, tag.end, author, use, (url,), tag, said, style=style.value, fault=fault)


def _only_url(style: str) -> tuple[str, Use]:
    """The one file that a style names, and for what; "" if it names none, or several."""
    parts = [part for part in _declarations(style) if _URL.search(part)]
    found = list(_URL.finditer(style))
    name = parts[0].partition(":")[0].strip() if parts else ""
    use: Use = "style" if SHOWING_ONE.match(name) else "background"
    if len(parts) != 1 or len(found) != 1 or not (use == "style" or _PROPERTIES.match(parts[0])):
        return "", use
    url = next(group for group in found[0].groups() if group is not None).strip()
    return ("" if url.startswith(("data:", "#")) else url), use


def _declarations(style: str) -> list[str]:
    """The declarations of a style, as written."""
    parts = [""]
    for piece in _PIECE.findall(style):
        if piece == ";":
            parts.append("")
        else:
            parts[-1] += piece
    return parts


def style_with(style: str, files: BackgroundFiles) -> str:
    """The style of an element with its background's files in place of the one that it names."""
    return ";".join(
        f"{_with(part, f'url({files.plain})')};{_with(part, files.set)}" if _URL.search(part) else part
        for part in _declarations(style)
    )


def style_with_file(style: str, address: str) -> str:
    """The style of an element with another file in place of the one that it names."""
    return _with(style, f"url('{address}')")


def _with(declaration: str, image: str) -> str:
    return _URL.sub(lambda _: image, declaration)
