"""The address that a site is published at, as its pages tell it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator

from sarvel.core.html.document import Document, value_of

_ORIGIN = re.compile(r"https?://[^/?#\s{}<>]+(?=[/?#]|$)", re.IGNORECASE)


def published_at(pages: Iterable[Document]) -> str:
    """The origin that most pages give as their own: `rel="canonical"` (RFC 6596) or `og:url`. "" if none does."""
    found = Counter(
        origin.group() for page in pages for said in _own_addresses(page) if (origin := _ORIGIN.match(said))
    )
    return found.most_common(1)[0][0] if found else ""


def _own_addresses(page: Document) -> Iterator[str]:
    for link in page.links:
        if "canonical" in (value_of(link, "rel") or "").lower().split():
            yield value_of(link, "href") or ""
    for meta in page.metas:
        if (value_of(meta, "property") or "").lower() == "og:url":
            yield value_of(meta, "content") or ""
