"""The surroundings of an image: what the stylesheets of its page could do to it and to a picture around it."""

from __future__ import annotations

import functools
import re
from dataclasses import dataclass
from typing import TypeAlias

from sarvel.core.html.document import Document, is_off_screen, read_document, value_of
from sarvel.core.html.page_styles import PageStyles, SheetLookup
from sarvel.core.html.tags import read_tag
from sarvel.core.html.wrapped import Rules, element_of
from sarvel.pages.read.asks import Page
from sarvel.pages.restore.blocks import Block

# A script that writes rules in the browser says so in its address; a page without any rules may have them from any script.
_STYLING_SCRIPT = re.compile(r"<script\b[^>]*\ssrc\s*=[^>]*(?:css|style)", re.IGNORECASE)
_WHOLE = ("html", "xhtml")  # dialects of pages that may name all their stylesheets


@dataclass(frozen=True)
class Around:
    """Facts of one image.

    Attributes:
        plain: whether nothing can lay out the picture or its sources: they need no attribute that keeps them out of the way.
        bare: whether the img surely has no padding, no border and no ratio by a rule, so that a ratio in its style is its own.
    """

    plain: bool = False
    bare: bool = False


UNKNOWN = Around()


KnownRules: TypeAlias = dict[tuple[object, ...], Rules | None]
"""Rules that were sorted before in this run, for pages share stylesheets; None where these are not all known."""


class Surroundings:
    """The surroundings of the images of a page; read once something is asked."""

    def __init__(self, page: Page, sheets: SheetLookup, known: KnownRules) -> None:
        """Prepares to read.

        Args:
            sheets: gives the same object for the same stylesheet, for as long as `known` is used.
            known: more is put in.
        """
        self._page, self._sheets, self._known = page, sheets, known

    def of(self, block: Block) -> Around:
        """The facts of one image."""
        tag = read_tag(block.image, 0, self._page.file.dialect.code)
        rules = self._rules
        if tag is None or rules is None:
            return UNKNOWN
        around = tuple(map(element_of, self._page.ancestors[block.start]))
        plain = not (rules.arranges(around) or rules.shows_picture(around))
        return Around(plain, bare=not rules.has_edges(around, tag))

    @functools.cached_property
    def _rules(self) -> Rules | None:
        """The rules of the page's stylesheets for screens; None where these are not all known."""
        dialect, text = self._page.file.dialect, self._page.text.text
        if dialect.name not in _WHOLE or _STYLING_SCRIPT.search(text):
            return None
        document = read_document(text, dialect)
        linked = ((id(self._sheets(address)), address) for address in document.sheets)
        media = (value_of(link, "media") for link in document.links)
        head = (document.whole, document.code_in_head, "<script" in text)
        key = (*head, *linked, *media, *(css for _, css in document.styles))
        if key not in self._known:
            self._known[key] = self._sorted(document)
        return self._known[key]

    def _sorted(self, document: Document) -> Rules | None:
        styles = PageStyles(document, (), self._sheets)
        if not styles.complete or (not styles.declarations and "<script" in document.text):
            return None
        return Rules(one for one in styles.declarations if not any(map(is_off_screen, one.media)))
