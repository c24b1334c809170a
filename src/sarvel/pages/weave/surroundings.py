"""The surroundings of an image: what the stylesheets of its page could do to it and to a picture around it."""

from __future__ import annotations

import functools
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sarvel.core.html.ancestors import ancestors_of
from sarvel.core.html.document import is_off_screen, read_document
from sarvel.core.html.page_styles import PageStyles, SheetLookup
from sarvel.core.html.tags import Tag, read_tag
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


class Surroundings:
    """The surroundings of the images of a page; read once something is asked."""

    def __init__(self, page: Page, sheets: SheetLookup) -> None:
        """Prepares to read."""
        self._page, self._sheets = page, sheets

    def of(self, block: Block) -> Around:
        """The facts of one image."""
        tag = read_tag(block.image, 0, self._page.file.dialect.code)
        rules = self._rules
        if tag is None or rules is None:
            return UNKNOWN
        around = tuple(map(element_of, self._ancestors[block.start]))
        plain = not (rules.arranges(around) or rules.shows_picture(around))
        return Around(plain, bare=not rules.has_edges(around, tag))

    @functools.cached_property
    def _rules(self) -> Rules | None:
        """The rules of the page's stylesheets for screens; None where these are not all known."""
        dialect, text = self._page.file.dialect, self._page.text.text
        if dialect.name not in _WHOLE:
            return None
        styles = PageStyles(read_document(text, dialect), (), self._sheets)
        if not styles.complete or _STYLING_SCRIPT.search(text) or (not styles.declarations and "<script" in text):
            return None
        shown = (one for one in styles.declarations if not any(map(is_off_screen, one.media)))
        return Rules(shown, text)

    @functools.cached_property
    def _ancestors(self) -> Mapping[int, Sequence[Tag]]:
        page = self._page
        return ancestors_of(page.text.text, page.file.dialect, [block.start for block in page.blocks])
