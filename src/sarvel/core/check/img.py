"""Rules for an img and for the page around it: words, space, loading."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from sarvel.core.check.context import FileLookup
from sarvel.core.check.rule import Finding
from sarvel.core.check.values import type_of
from sarvel.core.css.device import Device
from sarvel.core.html.document import Document, Image, has_more, is_bound, span_of, value_of, writes_more
from sarvel.core.html.images import names_a_file
from sarvel.core.html.page_styles import PageStyles
from sarvel.core.html.pieces import added, piece_edit
from sarvel.core.html.srcset import parse_srcset
from sarvel.core.html.tags import Tag
from sarvel.core.html.template_code import holds_code
from sarvel.core.html.words import MARKUP, SCREEN, words_in

_PLAIN_HTTP = re.compile(r"http://(?!localhost\b|127\.|\[::1\])", re.IGNORECASE)
_ONE_MACHINE = re.compile(
    r"file:|[a-z]:[\\/]|(?:https?:)?//(?:localhost(?=[:/?#]|$)|127\.\d|\[::1\]|0\.0\.0\.0)", re.IGNORECASE
)
_ENDS = (Device(360, 740), Device(1440, 900))
_HEIGHT = frozenset({"height"})
_LATE = 12  # images before it, by which it is hardly in view at once on any screen
_NEAR = 3000  # letters: so far from an img its link begins and ends, at most
_ICON = 64  # CSS px
_LIGHT = 2000  # bytes: an AVIF of nothing at all weighs about 300, and flat icons are at their best as PNG
_MODERN = ("image/avif", "image/webp", "image/jxl")
_OLD = re.compile(r"\.(?:jpe?g|png)(?:[?#].*)?$", re.IGNORECASE)


def check_images(page: Document, styles: PageStyles, lookup: FileLookup) -> Iterator[Finding]:
    """All findings about images, and about what the page says of its viewport.

    Args:
        styles: what stylesheets say of its images.
    """
    if page.whole and not page.code_in_head:
        yield from _viewport(page)
    for image in page.images:
        more = has_more(page.text, image.tag)
        if not more or not writes_more(page.text, image.tag):
            yield from _words(image, page.text)
        if not more:
            yield from _space(image, styles, lookup)
        yield from _addresses(page.text, image)
        yield from _format(image, lookup)
    yield from _loading(page, styles, lookup)


def _viewport(page: Document) -> Iterator[Finding]:
    metas = [tag for tag in page.metas if (value_of(tag, "name") or "").lower() == "viewport"]
    head = next((tag for name in ("head", "html", "body") for tag in page.frames if tag.name == name), None)
    if not metas:
        start, end = (head.start, head.end) if head else (0, page.text.find(">") + 1)
        yield Finding("no-viewport-meta", start, end, "this page has no viewport meta element")
    elif not any(
        re.search(r"device-width|initial-scale", value_of(tag, "content") or "", re.IGNORECASE) for tag in metas
    ):
        words = "this viewport meta element does not say width=device-width"
        yield Finding("no-viewport-meta", *span_of(metas[0], "content"), words)


def _words(image: Image, text: str) -> Iterator[Finding]:
    tag, alt = image.tag, value_of(image.tag, "alt")
    hidden = value_of(tag, "aria-hidden") == "true" or value_of(tag, "role") in ("presentation", "none")
    if alt is None:
        if not hidden and not is_bound(tag, "alt") and not (tag.get("aria-label") or tag.get("aria-labelledby")):
            yield Finding("alt-missing", tag.start, tag.end, "this img has no alt")
    elif not alt.strip() and not hidden and (link := _wordless_link(tag, text)):
        yield Finding("link-without-words", *link, "this link holds nothing but an img without words")
    elif names_a_file(alt, value_of(tag, "src") or ""):
        yield Finding(
            "alt-is-a-file-name", *span_of(tag, "alt"), f"the alt of this img is a file name, '{alt.strip()}'"
        )
    elif alt.strip() and hidden:
        yield Finding("decoration-with-words", *span_of(tag, "alt"), "this img is hidden from readers and has words")


def _wordless_link(tag: Tag, text: str) -> tuple[int, int] | None:
    """Where the start tag of a link is that an img is in, if there are no words in it; or None."""
    before = text[max(0, tag.start - _NEAR) : tag.start]
    opened = max(before.rfind("<a "), before.rfind("<a\n"))
    end = text.find("</a", tag.end, tag.end + _NEAR)
    if opened < 0 or end < 0 or "</a" in before[opened:]:
        return None
    start = tag.start - len(before) + opened
    link = text[start:end]
    opening = re.match(r"<a(?:[^>\"']|\"[^\"]*\"|'[^']*')*>", link)
    if not opening or holds_code(link) or "{" in link or not re.search(r"\shref\s*=", opening.group()):
        return None
    inner = MARKUP.sub("", link)
    named = re.search(r"\s(?:aria-label|aria-labelledby|title)\s*=", link) or re.search(
        r"\salt\s*=\s*[\"']?[^\"'\s>]", link
    )
    return None if inner.strip() or named or "<svg" in link else (start, start + opening.end())


def _space(image: Image, styles: PageStyles, lookup: FileLookup) -> Iterator[Finding]:
    tag = image.tag
    style = value_of(tag, "style") or ""
    if (
        tag.short
        or "aspect-ratio" in style
        or holds_code(style)
        or all(is_bound(tag, one) for one in ("width", "height"))
    ):
        return
    if not styles.may_set(tag, "aspect-ratio") and not _has_height(tag, styles):
        words = "this img has no width and height, and no ratio"
        file = lookup(value_of(tag, "src") or "")
        if not file or not file.width or any(tag.get(name) for name in ("width", "height")):
            yield Finding("size-not-said", tag.start, tag.end, words)
            return
        said = f'width="{file.width}" height="{file.height}"'
        edits = (added(tag, said),) if _changes_nothing(image, styles) else ()
        cure = (
            f"Write {said} on the img"
            if edits
            else f"Write {said} on the img, and img {{ height: auto }} in a stylesheet"
        )
        yield Finding("size-not-said", tag.start, tag.end, words, cure, edits)


def _changes_nothing(image: Image, styles: PageStyles) -> bool:
    """Tells whether width and height of its file, on an img that has neither, say its shape and change nothing else."""
    listed = any(one.get("srcset") for one in image.tags)
    if listed or image.tag.get("style") or not styles.complete:
        return False
    return all(styles.values(image.tag, device, _HEIGHT).get("height", "").strip() == "auto" for device in _ENDS)


def _has_height(tag: Tag, styles: PageStyles) -> bool:
    """Tells whether rules give an image a height of its own, on narrow viewports and on wide ones."""
    if not styles.may_set(tag, "height"):
        return False
    heights = [styles.values(tag, device, _HEIGHT).get("height", "") for device in _ENDS]
    return all(re.match(r"[\d.]+(?!.*%)[a-z]", height) for height in heights)


def _addresses(text: str, image: Image) -> Iterator[Finding]:
    src = value_of(image.tag, "src") or ""
    if not holds_code(src) and not image.tag.short and not src.startswith("data:") and re.search(r"\s", src.strip()):
        meant = re.sub(r"\s", "%20", src.strip())
        start = len(src) - len(src.lstrip())
        edits = piece_edit(text, image.tag, "src", start, len(src.rstrip()), meant)
        words = "this src holds a space"
        yield Finding("address-not-escaped", *span_of(image.tag, "src"), words, f"Write {meant}", edits)
    for tag in (*image.sources, image.tag):
        for name in ("src", "srcset"):
            value = value_of(tag, name) or ""
            urls = [one.url for one in parse_srcset(value)] if name == "srcset" else [value.strip()]
            own = next((url for url in urls if _ONE_MACHINE.match(url)), None)
            if own:
                words = f"{own} is an address of one machine"
                yield Finding("address-of-one-machine", *span_of(tag, name), words)
            found = next((url for url in urls if _PLAIN_HTTP.match(url)), None)
            if found:
                yield Finding("fetched-without-encryption", *span_of(tag, name), f"{found} is fetched by http")


def _format(image: Image, lookup: FileLookup) -> Iterator[Finding]:
    tag = image.tag
    urls = [value_of(tag, "src") or "", *(one.url for one in parse_srcset(value_of(tag, "srcset") or ""))]
    types = set(map(type_of, image.sources))
    urls += [one.url for source in image.sources for one in parse_srcset(value_of(source, "srcset") or "")]
    urls = [url for url in urls if url]
    if (
        urls
        and all(map(_OLD.search, urls))
        and not types & set(_MODERN)
        and not image.master
        and not _light(urls, lookup)
    ):
        yield Finding("no-modern-format", tag.start, tag.end, "this img is offered as JPEG or PNG alone")


def _light(urls: Sequence[str], lookup: FileLookup) -> bool:
    """Tells whether files are so light that the frame of a newer format would weigh as much as it spares; or missing."""
    files = [lookup(url) for url in urls]
    return all(file and (file.missing or 0 < file.weight < _LIGHT) for file in files)


def _loading(page: Document, styles: PageStyles, lookup: FileLookup) -> Iterator[Finding]:
    urgent = [image.tag for image in page.images if (value_of(image.tag, "fetchpriority") or "").lower() == "high"]
    for tag in urgent[1:]:
        yield Finding("many-urgent-images", *span_of(tag, "fetchpriority"), "another image of this page is urgent, too")
    for image in page.images:
        loading = (value_of(image.tag, "loading") or "").strip().lower()
        by_plan = bool(image.master)  # whose slot says when it is loaded
        first = image.number == 1 and page.whole and loading == "lazy" and _large(image) and not by_plan
        if first and not _below_much_text(page, image) and not _closed(image, styles):
            yield Finding("first-image-lazy", *span_of(image.tag, "loading"), "the first image of this page is lazy")
        named = any(value_of(tag, name) for tag in image.tags for name in ("src", "srcset"))
        if image.number > _LATE and loading != "lazy" and page.whole and named and not _is_icon(image, lookup):
            words = f"image {image.number} of this page is fetched at once"
            yield Finding("late-image-eager", image.tag.start, image.tag.end, words)


def _below_much_text(page: Document, image: Image) -> bool:
    """Tells whether so many words are before an image that it is below the first screen of a laptop."""
    body = next((tag.end for tag in page.frames if tag.name == "body"), 0)
    return words_in(page.text[body : image.tag.start]) > SCREEN


def _closed(image: Image, styles: PageStyles) -> bool:
    """Tells whether an image is in an element that opens later."""
    around = (styles.around(image.tag, name) for name in ("dialog", "details"))
    return any(attributes is not None and "open" not in attributes for attributes in around)


def _is_icon(image: Image, lookup: FileLookup) -> bool:
    """Tells whether an image is so small or light that it holds nothing up."""
    width = (value_of(image.tag, "width") or "").strip()
    return (width.isdecimal() and int(width) <= _ICON) or _light([value_of(image.tag, "src") or ""], lookup)


def _large(image: Image) -> bool:
    """Tells whether it is more than a badge or an icon, as far as its attributes tell."""
    width = (value_of(image.tag, "width") or "").strip()
    return not width.isdecimal() or int(width) > 200
