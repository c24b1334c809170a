"""Pages as documents, each image with its slot and master: by its marks or, in a folder of finished pages, by the source.

The n-th img of a finished page is the n-th image of the page that it was woven from.
"""

from __future__ import annotations

import bisect
from pathlib import Path

from sarvel.core.html.dialect import HTML, dialect_of
from sarvel.core.html.document import Document, read_document, value_of
from sarvel.errors import PageError
from sarvel.pages.read.asks import read_page
from sarvel.pages.read.page_files import PageFile, source_of
from sarvel.pipeline.roots import project_of
from sarvel.plan.read import Plan


def document_of(text: str, file: Path | None, plan: Plan | None) -> Document:
    """A page, read.

    Args:
        file: its file, which tells how it is read; None for standard input, which is read as HTML.
    """
    document = read_document(text, (dialect_of(file.name, plan.dialects if plan else {}) if file else None) or HTML)
    if plan and file and (source := _source_of(file, plan)):
        _tell(document, source, plan)
    return document


def _source_of(file: Path, plan: Plan) -> PageFile | None:
    return source_of(file, plan.folder, plan.page_patterns, plan.woven, plan.dialects, plan.content)


def _tell(finished: Document, source: PageFile, plan: Plan) -> None:
    """Puts slots and masters into the document of a finished page."""
    try:
        page = read_page(source, plan.slots, project_of(plan), plan.masters_folder)
    except PageError:  # gone, or unreadable: its target is a page like any other
        return
    authors = read_document(page.text.text, page.file.dialect).images
    starts = [ask.block.start for ask in page.asks]
    for image, own in zip(finished.images, authors, strict=False):
        at = bisect.bisect_right(starts, own.tag.start) - 1
        ask = page.asks[at] if at >= 0 and own.tag.start < page.asks[at].block.end else None
        if ask and not ask.fault and value_of(image.tag, "src") != value_of(own.tag, "src"):
            image.slot, image.master = ask.slot, ask.block.src or ""
