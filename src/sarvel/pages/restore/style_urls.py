"""Files that styles name other than as backgrounds: in stylesheets, SCSS and Less, style elements and style attributes.

    list-style-image: url(../masters/dot.png)                                                      the author's
    list-style-image: url("../pictures/dot-16.0f3c.png")/*woven:url(../masters/dot.png)#MARK*/     the same, woven

Text in, text out.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from sarvel.core.html.dialect import Dialect
from sarvel.core.html.mentions import SHOWING_ONE
from sarvel.core.html.tags import Wanted
from sarvel.core.html.template_code import holds_code
from sarvel.pages.restore.marks import digest_of
from sarvel.pages.restore.mention_tags import Mentioned

_URL = r"""url\(\s*(?:"(?:[^"\\\n]|\\.)*"|'(?:[^'\\\n]|\\.)*'|[^\s"'()\\]+)\s*\)"""
_WOVEN = rf"(?P<ours>{_URL})/\*woven:(?P<author>{_URL})#(?P<mark>[0-9a-f]+)\*/"
_TOKEN = re.compile(
    rf"""{_WOVEN}|(?P<url>{_URL})|/\*.*?(?:\*/|\Z)|"(?:[^"\\\n]|\\.)*"?|'(?:[^'\\\n]|\\.)*'?|(?P<end>[;{{}}])|(?P<name>[-\w]+)(?=\s*:)""",
    re.IGNORECASE | re.DOTALL,
)
_LINE_COMMENT = re.compile(r"(?<![:\w\"'(])//[^\n]*")
_STYLE_END = re.compile(r"</style", re.IGNORECASE)
_MAY_BE = re.compile(
    r"(?:list-style|border-image|mask|content|shape-outside)[\w-]*\s*:[^;{}]{0,500}?url\(", re.IGNORECASE
)
_INSIDE = re.compile(r"""url\(\s*["']?(.*?)["']?\s*\)\Z""", re.IGNORECASE | re.DOTALL)


def styled_in(page: str, dialect: Dialect) -> Iterator[Mentioned]:
    """The files that a stylesheet, or the style elements of a page, name in these properties, woven or not, in order."""
    if "url(" not in page.lower() or not _MAY_BE.search(page):
        return
    if dialect.name in ("css", "scss"):
        yield from _in_text(page, 0, len(page), has_line_comments=dialect.name == "scss")
        return
    for tag in dialect.tags(page, Wanted(frozenset({"style"}))):
        if tag.name == "style" and not tag.closing:
            end = _STYLE_END.search(page, tag.end)
            yield from _in_text(page, tag.end, end.start() if end else len(page), has_line_comments=False)


def _in_text(page: str, start: int, end: int, *, has_line_comments: bool) -> Iterator[Mentioned]:
    text = page[start:end]
    if has_line_comments:
        text = _LINE_COMMENT.sub(lambda found: " " * len(found[0]), text)
    name = ""
    for token in _TOKEN.finditer(text):
        if token["end"]:
            name = ""
        elif token["name"]:
            name = name or token["name"]
        elif (token["url"] or token["ours"]) and SHOWING_ONE.match(name):
            author = token["author"] or token["url"]
            url = url_in(author)
            if not url or url.startswith(("data:", "#")) or holds_code(url):
                continue
            is_whole = not token["ours"] or token["mark"] == digest_of([url_in(token["ours"])])
            fault = "" if is_whole else "what Sarvel wrote was changed by hand"
            yield Mentioned(start + token.start(), start + token.end(), author, "style", (url,), fault=fault)


def url_in(text: str) -> str:
    """The address in `url(…)`."""
    found = _INSIDE.match(text)
    return found[1].strip() if found else ""


def url_woven(author: str, address: str) -> str:
    """What takes the place of an author's `url(…)`."""
    return f'url("{address}")/*woven:{author}#{digest_of([address])}*/'
