"""Rules for links that preload images: missing attributes, and differences from the image."""

from __future__ import annotations

from collections.abc import Iterator

from sarvel.core.check.rule import Finding
from sarvel.core.check.slips import nearest
from sarvel.core.html.document import Document, span_of, value_of
from sarvel.core.html.mentions import PICTURES
from sarvel.core.html.pieces import Edit, added, taken_away, written
from sarvel.core.html.srcset import parse_srcset
from sarvel.core.html.tags import Tag
from sarvel.core.html.template_code import holds_code

_RELS = ("preload", "prefetch")


def check_preloads(page: Document) -> Iterator[Finding]:
    """All findings about preload links that do not depend on the device."""
    for link in page.links:
        values = link.values()
        yield from _misspelt(link)
        if "preload" not in values.get("rel", "").lower().split() or any(map(holds_code, values.values())):
            continue
        urls = _urls(link, "href", "imagesrcset")
        as_ = values.get("as", "").strip().lower()
        if not as_ and urls and all(map(PICTURES.search, urls)):
            words = "this link has no as"
            yield Finding("preload-without-as", link.start, link.end, words, "", (added(link, 'as="image"'),))
        if as_ == "image":
            yield from _of_image(link, urls, page)


def _misspelt(link: Tag) -> Iterator[Finding]:
    """A finding if a link to an image says nearly that it preloads."""
    rel = value_of(link, "rel") or ""
    if (value_of(link, "as") or "").lower() == "image" and len(rel.split()) == 1 and not holds_code(rel):
        meant = nearest(rel, _RELS)
        if meant and rel.strip().lower() not in _RELS:
            place, new = span_of(link, "rel"), written("rel", meant)
            words = f"rel knows no {rel.strip()}: did you mean {meant}?"
            yield Finding("value-unknown", *place, words, f"Write {new}", (Edit(*place, new),))


def _of_image(link: Tag, urls: set[str], page: Document) -> Iterator[Finding]:
    shown = [image for image in page.images if any(urls & _urls(tag, "src", "srcset") for tag in image.tags)]
    if not shown:
        return
    if all((image.tag.get("crossorigin") is None) != (link.get("crossorigin") is None) for image in shown):
        words = (
            f"this link is fetched {'with' if link.get('crossorigin') else 'without'} crossorigin, and its img is not"
        )
        edits = tuple(_alike(link, shown[0].tag, page.text))
        yield Finding("preload-fetched-apart", *span_of(link, "crossorigin"), words, "", edits)
    if all((value_of(image.tag, "loading") or "").strip().lower() == "lazy" for image in shown):
        words = "the img that this link preloads is lazy"
        yield Finding("preload-of-a-lazy-image", link.start, link.end, words)


def _alike(link: Tag, image: Tag, text: str) -> Iterator[Edit]:
    """The edit that makes the crossorigin of a link that of its img."""
    own, wanted = link.get("crossorigin"), image.get("crossorigin")
    if own:
        yield taken_away(text, own)
    elif wanted:
        yield added(link, text[wanted.start : wanted.end])


def _urls(tag: Tag, single: str, several: str) -> set[str]:
    urls = {value_of(tag, single) or "", *(one.url for one in parse_srcset(value_of(tag, several) or ""))}
    return {url.strip().removeprefix("./") for url in urls if url.strip()}
