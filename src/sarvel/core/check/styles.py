"""Rules for stylesheets: backgrounds of one file for every device, and images that nothing lets shrink."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence

from sarvel.core.check.addresses import of_address, type_told
from sarvel.core.check.context import Context, FileLookup
from sarvel.core.check.rule import Finding
from sarvel.core.check.values import css_px, dimension
from sarvel.core.css.device import Device
from sarvel.core.css.media import parse_media
from sarvel.core.css.sheet import WIDTHS, Declaration, Url, declarations_of, naming_files
from sarvel.core.html.document import Document, Image, span_of, value_of
from sarvel.core.html.page_styles import PageStyles
from sarvel.core.html.template_code import holds_code

_RASTER = re.compile(r"\.(?:jpe?g|png|webp|avif|gif|jxl)(?:[?#].*)?$", re.IGNORECASE)
_SMALL = 480  # px across; narrower files are tiles and icons
_PHONE = Device(320, 568)  # the narrowest viewport in use
_ENDS = (_PHONE, Device(1920, 1080, hover=True, pointer="fine"))
_BACKGROUNDS = ("background", "background-image")
_OTHERS = ("mask", "-webkit-mask", "border-image", "list-style", "content", "cursor")  # which show files, too
_SHRINKS = re.compile(r"\d(?:%|vi|vw|cqw|cqi)|min\(|clamp\(", re.IGNORECASE)

# Properties that may make an image or an ancestor narrower than its natural width; and displays that do not.
_LAID_OUT = frozenset(
    {"position", "flex", "flex-basis", "flex-shrink", "min-width", "zoom", "transform", "contain", "scale"}
)
_PLAIN = frozenset({"block", "inline", "inline-block", "list-item", "contents", "flow", "flow-root"})


def check_page_styles(page: Document, styles: PageStyles, context: Context) -> Iterator[Finding]:
    """All findings about the styles in a page, and about its images as all its stylesheets show them.

    Args:
        styles: what stylesheets say of its images.
        context: files, stylesheets, audience and settings to judge it by.
    """
    for start, css in page.styles:
        yield from check_sheet(css, context.lookup, start)
    for tag in page.styled:
        style = value_of(tag, "style") or ""
        if not holds_code(style) and "url" in style:
            yield from (
                Finding(one.rule, *span_of(tag, "style"), one.says)
                for one in _backgrounds(declarations_of(style), context.lookup, 0, style)
            )
    yield from _shrinking(page, styles)
    for picture in page.pictures:
        if picture.is_woven and (missed := styles.missed_in_picture(picture)):
            words = f"the rule {missed} meant this img, and does not in its picture"
            yield Finding("missed-in-picture", picture.images[0].tag.start, picture.images[0].tag.end, words)


def check_sheet(css: str, lookup: FileLookup, start: int = 0) -> Iterator[Finding]:
    """All findings about a stylesheet.

    Args:
        lookup: facts of the files that it names.
        start: where it begins in its page.
    """
    yield from _backgrounds(naming_files(css), lookup, start, css)


def _backgrounds(rules: Sequence[Declaration], lookup: FileLookup, start: int, css: str) -> Iterator[Finding]:
    """Findings about the files that rules name, and about backgrounds that are one file for every device."""
    for rule in rules:
        if rule.urls and rule.name.startswith((*_BACKGROUNDS, *_OTHERS)):
            for url in rule.urls:
                yield from of_address(url.url, lookup, _span(rule, start, css))
                yield from _of_type(url, lookup, _span(rule, start, css))
    shown = [rule for rule in rules if rule.name in _BACKGROUNDS and rule.urls]
    parts = [_parts(rule.selector) for rule in shown]
    for rule, own in zip(shown, parts, strict=True):
        alike = [one for one, other in zip(shown, parts, strict=True) if not own.isdisjoint(other)]
        several = len({url.url for one in alike for url in one.urls}) > 1 or any(url.chosen for url in rule.urls)
        if (
            several
            or _varies(rule.media)
            or not _RASTER.search(rule.urls[0].url)
            or rule.urls[0].url.startswith("data:")
        ):
            continue
        file = lookup(rule.urls[0].url)
        if not file or file.width > _SMALL:
            name = rule.urls[0].url.rsplit("/", 1)[-1]
            wide = f" of {file.width} px" if file else ""
            words = f"one file{wide} for every device, {name}"
            yield Finding("background-of-one-file", *_span(rule, start, css), words)


def _of_type(url: Url, lookup: FileLookup, where: tuple[int, int]) -> Iterator[Finding]:
    """A finding if an image-set says another type of a file than it has."""
    file = lookup(url.url)
    actual = file.type if file else type_told(url.url)
    if url.type and actual and url.type != actual:
        words = f"{url.url} is {actual}, the image-set says {url.type}"
        yield Finding("type-not-the-files", *where, words, f'Write type("{actual}")')


def _span(rule: Declaration, start: int, css: str) -> tuple[int, int]:
    """Start and end offset of a declaration in the page whose stylesheet begins at an offset."""
    written = css[rule.start :].split(";", 1)[0].split("}", 1)[0].rstrip()
    return start + rule.start, start + rule.start + len(written)


def _varies(media: Iterable[str]) -> bool:
    """Tells whether media queries hold on some screens alone."""
    return not all(parse_media(query).matches(device) for query in media for device in _ENDS)


def _shrinking(page: Document, styles: PageStyles) -> Iterator[Finding]:
    """Findings about the first image wider than a phone that no rule lets shrink, where all rules are known."""
    wide = [image for image in page.images if dimension(image.tag, "width") > _PHONE.width]
    if not wide or not page.whole or not (page.sheets or page.styles) or not styles.complete:
        return
    if any(_is_for_all(rule) and _SHRINKS.search(rule.value) for rule in styles.declarations):
        return
    for image in wide:
        if _stays_wide(image, styles):
            words = f"this img is {dimension(image.tag, 'width')} px wide, and no rule lets it be narrower"
            yield Finding("image-cannot-shrink", *span_of(image.tag, "width"), words)
            return


def _is_for_all(rule: Declaration) -> bool:
    """Tells whether a rule is for every image on every device, as most pages have one."""
    return rule.name in WIDTHS and not rule.media and "img" in (part.strip() for part in rule.selector.split(","))


def _stays_wide(image: Image, styles: PageStyles) -> bool:
    """Tells whether an image is surely wider than a phone: no ancestor hides or shrinks it."""
    own, *around = styles.outwards(image.tag, _PHONE)
    if _LAID_OUT & own.values.keys() or own.values.get("display") == "none":
        return False
    for name in ("width", "max-width"):
        value = own.values.get(name, "").strip().lower()
        if value not in ("", "auto", "none") and ((px := css_px(value, _PHONE)) is None or px <= _PHONE.width):
            return False
    return not any(_fits_what_is_in_it(box.values) for box in around)


def _fits_what_is_in_it(values: Mapping[str, str]) -> bool:
    shown = values.get("display", "block").split()
    hides = any(values.get(name, "visible") != "visible" for name in ("overflow", "overflow-x", "overflow-inline"))
    return hides or not set(shown) <= _PLAIN or bool(_LAID_OUT & values.keys())


def _parts(selectors: str) -> set[str]:
    return {part.strip() for part in re.split(r",(?![^(]*\))", selectors)}
