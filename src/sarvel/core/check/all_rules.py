"""All rules on one page."""

from __future__ import annotations

from dataclasses import replace

from sarvel.core.check.addresses import check_files
from sarvel.core.check.allow import allowed_away
from sarvel.core.check.attributes import check_attributes
from sarvel.core.check.boxes import check_boxes
from sarvel.core.check.candidates import check_candidates
from sarvel.core.check.causes import causes_alone
from sarvel.core.check.context import Context
from sarvel.core.check.devices import check_devices
from sarvel.core.check.img import check_images
from sarvel.core.check.mentions import check_mentions
from sarvel.core.check.preloads import check_preloads
from sarvel.core.check.rule import Finding
from sarvel.core.check.size_entries import check_sizes
from sarvel.core.check.sources import check_sources
from sarvel.core.check.styles import check_page_styles
from sarvel.core.html.document import Document, Image, span_of
from sarvel.core.html.page_styles import PageStyles

_SPELLED = frozenset({"attribute-misspelt", "src-on-source", "size-not-said", "preload-fetched-apart"})
"""Rules whose edits write names and styles as HTML spells them, which scripts spell otherwise."""


def check(page: Document, context: Context) -> list[Finding]:
    """Checks a page by all rules: findings in the order of the page, but for what the page allows.

    Args:
        context: files, stylesheets, audience and settings to judge it by.
    """
    asks = [image for image in page.images if image.is_ask]
    page = replace(page, images=[image for image in page.images if not image.is_ask])
    styles = PageStyles(page, [image.tag for image in page.images], context.sheets)
    found = [
        *(_not_woven(image) for image in asks),
        *check_sources(page, context.lookup),
        *check_attributes(page),
        *check_preloads(page),
        *check_candidates(page, context.lookup),
        *check_sizes(page),
        *check_images(page, styles, context.lookup),
        *check_files(page, context.lookup),
        *check_mentions(page, context.lookup),
        *check_devices(page, context),
        *check_page_styles(page, styles, context),
        *check_boxes(page, styles, context),
    ]
    found = causes_alone(page, allowed_away(page, found, context.rules))
    if page.dialect.camel:
        found = [replace(one, edits=()) if one.rule in _SPELLED else one for one in found]
    return sorted(dict.fromkeys(found), key=lambda one: (one.start, one.rule))


def _not_woven(image: Image) -> Finding:
    return Finding("not-woven", *span_of(image.tag, "data-sarvel"), "this img asks for a slot and is not woven yet")
