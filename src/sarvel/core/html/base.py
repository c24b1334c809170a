"""The base of a page's addresses: its first base element with an href (HTML, section 4.2.3)."""

from __future__ import annotations

import re

from sarvel.core.html.tags import Wanted, tags
from sarvel.core.html.template_code import holds_code

_BASE = re.compile(r"<base\b", re.IGNORECASE)
_BEHIND_HOST = re.compile(r"^(?:[a-z][a-z0-9+.-]*:)?//[^/?#]*", re.IGNORECASE)
_WANTED = Wanted(frozenset({"base"}))


def without_base(path: str, base: str) -> str:
    """A path from the root of a host, as seen from the root of a site.

    Args:
        base: the path that the site is published below, such as /blog; "" for none.
    """
    return path[len(base) :] if base and (path == base or path.startswith(f"{base}/")) else path


def base_path(text: str) -> str | None:
    """The path that relative addresses of a page begin at, by its base element; None if there is none, or code sets it.

    The host of a base is treated as the site's own.
    """
    if not _BASE.search(text):
        return None
    hrefs = (tag.get("href") for tag in tags(text, only=_WANTED) if not tag.closing)
    href = next((one.value.strip() for one in hrefs if one), None)
    if href is None or holds_code(href):
        return None
    return _BEHIND_HOST.sub("", href).partition("#")[0].partition("?")[0] or None
