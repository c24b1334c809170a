"""Rules for images that a page names other than by an img: links, posters, images for sharing, icons."""

from __future__ import annotations

from collections.abc import Iterator

from sarvel.core.amounts import weight
from sarvel.core.check.addresses import of_address
from sarvel.core.check.context import FileLookup
from sarvel.core.check.rule import Finding
from sarvel.core.html.document import Document
from sarvel.core.html.mentions import Mention
from sarvel.core.html.template_code import holds_code

_HEAVY = 1_000_000  # bytes; a JPEG of 1920 px, as wide as a common desktop, weighs half of it at most
_WIDE = (
    2560  # px; what a screen of 1280 px at density 2 shows whole, and the widest that a plan makes unless it says more
)
_SMALL = 600  # px; below that, readers of the Open Graph protocol show a thumbnail next to the words
_SCHEMES = ("http://", "https://", "//")


def check_mentions(page: Document, lookup: FileLookup) -> Iterator[Finding]:
    """Findings about the places that name one image."""
    for one in page.mentions:
        if not one.part and not holds_code(one.url):
            yield from of_address(one.url, lookup, (one.start, one.end))
            yield from _heavy(one, lookup)
            if one.use == "share":
                yield from _shared(one, lookup)


def _heavy(one: Mention, lookup: FileLookup) -> Iterator[Finding]:
    file = lookup(one.url)
    if file and one.use != "share" and (file.weight >= _HEAVY or file.width > _WIDE):
        what = "leads to" if one.use == "link" else "fetches"
        size = f"{file.width} px wide, {weight(file.weight)}" if file.weight else f"{file.width} px wide"
        words = f"this {what} {one.url.rsplit('/', 1)[-1]}, {size}"
        yield Finding("master-served-whole", one.start, one.end, words)


def _shared(one: Mention, lookup: FileLookup) -> Iterator[Finding]:
    """Findings about an image for sharing. JSON-LD and links are seen from their page, and meta elements are not."""
    is_meta = one.name.lower() == "content"
    if is_meta and not one.url.lower().startswith(_SCHEMES):
        yield Finding("share-image-address", one.start, one.end, f"{one.url} is no absolute address")
    file = lookup(one.url)
    if file and 0 < file.width < _SMALL:
        name = one.url.rsplit("/", 1)[-1]
        yield Finding("share-image-small", one.start, one.end, f"{name} is {file.width} px wide")
