"""Rules for stylesheets: backgrounds of one file for every device, and images that nothing lets shrink."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence

from sarvel.core.check.addresses import of_address
from sarvel.core.check.context import Context, FileLookup
from sarvel.core.check.rule import Finding
from sarvel.core.css.sheet import WIDTHS, Declaration, declarations_of, read_sheet
from sarvel.core.html.document import Document, Image, span_of, value_of
from sarvel.core.html.template_code import holds_code

_RASTER = re.compile(r"\.(?:jpe?g|png|webp|avif|gif|jxl)(?:[?#].*)?$", re.IGNORECASE)
_SMALL = 480  # px across; narrower files are tiles and icons
_NARROWEST = 320  # CSS px: the narrowest viewport in use
_BACKGROUNDS = ("background", "background-image")
_SHRINKS = re.compile(r"\d(?:%|vi|vw|cqw|cqi)|min\(|clamp\(", re.IGNORECASE)
_LAST = re.compile(r"[^\s>+~]+$")


def check_page_styles(page: Document, context: Context) -> Iterator[Finding]:
    """All findings about the styles in a page, and about its images as all its stylesheets show them."""
    for start, css in page.styles:
        yield from check_sheet(css, context.lookup, start)
    for tag in page.styled:
        style = value_of(tag, "style") or ""
        if not holds_code(style) and "url" in style:
            yield from (
                Finding(one.rule, *span_of(tag, "style"), one.says)
                for one in _backgrounds(declarations_of(style), context.lookup, 0, style)
            )
    yield from _shrinking(page, context)


def check_sheet(css: str, lookup: FileLookup, start: int = 0) -> Iterator[Finding]:
    """All findings about a stylesheet.

    Args:
        css: its text.
        lookup: what is known of the files that it names.
        start: where it begins in its page.
    """
    if "url" in css or "image-set" in css:
        yield from _backgrounds(read_sheet(css).declarations, lookup, start, css)


def _backgrounds(rules: Sequence[Declaration], lookup: FileLookup, start: int, css: str) -> Iterator[Finding]:
    shown = [rule for rule in rules if rule.name in _BACKGROUNDS and rule.urls]
    for rule in shown:
        end = start + rule.start + len(css[rule.start :].split(";", 1)[0].split("}", 1)[0].rstrip())
        for url in rule.urls:
            yield from of_address(url.url, lookup, (start + rule.start, end))
        alike = [one for one in shown if one.selector == rule.selector]
        several = len({url.url for one in alike for url in one.urls}) > 1 or any(url.chosen for url in rule.urls)
        if several or not _RASTER.search(rule.urls[0].url) or rule.urls[0].url.startswith("data:"):
            continue
        file = lookup(rule.urls[0].url)
        if not file or file.width > _SMALL:
            name = rule.urls[0].url.rsplit("/", 1)[-1]
            wide = f" of {file.width} px" if file else ""
            words = f"one file{wide} for every device, {name}"
            yield Finding("background-of-one-file", start + rule.start, end, words)


def _shrinking(page: Document, context: Context) -> Iterator[Finding]:
    """Findings about the first image wider than a phone that no rule lets shrink, if all rules are known."""
    wide = [image for image in page.images if _width(image) > _NARROWEST]
    if not wide or not page.whole or page.code_in_head:
        return
    sheets = [*map(context.sheets, page.sheets)]
    sheets += [read_sheet(css) for _, css in page.styles]
    known = [sheet for sheet in sheets if sheet is not None]
    if not known or len(known) < len(sheets) or any(sheet.imports for sheet in known):
        return
    rules = [rule for sheet in known for rule in sheet.widths if _shrinks(rule)]
    for image in wide:
        if not any(_shrinks(one) for one in declarations_of(value_of(image.tag, "style") or "")) and not any(
            _may_match(rule.selector, image) for rule in rules
        ):
            words = f"this img is {_width(image)} px wide, and no rule lets it be narrower"
            yield Finding("image-cannot-shrink", *span_of(image.tag, "width"), words)
            return


def _width(image: Image) -> int:
    width = (value_of(image.tag, "width") or "").strip()
    return int(width) if width.isdecimal() else 0


def _shrinks(rule: Declaration) -> bool:
    return rule.name in WIDTHS and bool(_SHRINKS.search(rule.value))


def _may_match(selectors: str, image: Image) -> bool:
    """Tells whether a rule may be for this image, going by the last part of its selectors."""
    classes = (value_of(image.tag, "class") or "").split()
    own = value_of(image.tag, "id")
    return any(_last_part(one, classes, own) for one in _parted(selectors))


def _parted(selectors: str) -> Iterable[str]:
    return re.split(r",(?![^(]*\))", selectors)


def _last_part(selector: str, classes: Sequence[str], own: str | None) -> bool:
    found = _LAST.search(selector.strip())
    last = found.group() if found else ""
    if re.search(r"(?<![\w.#-])img\b|\*|^:|\[", last):
        return True
    return any(f".{name}" in last for name in classes) or bool(own and f"#{own}" in last)
