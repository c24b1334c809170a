"""References: files that pages still name, which are never deleted."""

from __future__ import annotations

import html
import re
import urllib.parse
from collections.abc import Iterable
from pathlib import Path

# What parts addresses in HTML, CSS, JSON and Markdown. A file's own name holds none of it unescaped, see `url_of`.
_BETWEEN = re.compile(r"""[\s"'`()\[\]{}<>,/\\|=]+""")


def names_in_pages(files: Iterable[Path]) -> set[str]:
    """Last parts of all possible addresses in some files, escapes of HTML and of URLs resolved.

    Files that cannot be read are passed over; who asks sees to it that they are reported.
    """
    names: set[str] = set()
    for file in files:
        try:
            content = file.read_bytes() if file.is_file() else b""
        except OSError:
            continue
        names.update(_BETWEEN.split(_text(content)))
    return {urllib.parse.unquote(html.unescape(name).split("?")[0].split("#")[0]) for name in names if "." in name}


def _text(content: bytes) -> str:
    wide = content[:2] in (b"\xff\xfe", b"\xfe\xff")
    return content.decode("utf-16" if wide else "utf-8", "replace")
