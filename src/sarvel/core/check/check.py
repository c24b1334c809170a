"""All rules on one page."""

from __future__ import annotations

from sarvel.core.check.candidates import check_candidates
from sarvel.core.check.files import check_files
from sarvel.core.check.images import check_images
from sarvel.core.check.page import read_page
from sarvel.core.check.rule import Finding
from sarvel.core.check.seen import Seen, nothing_seen
from sarvel.core.check.sources import check_sources


def check(text: str, seen: Seen = nothing_seen) -> list[Finding]:
    """Everything that is wrong with a page's images, in the order of the page.

    Args:
        text: the page.
        seen: what is known of the files that it names.
    """
    page = read_page(text)
    found = [
        *check_sources(page, seen),
        *check_candidates(page),
        *check_images(page),
        *check_files(page, seen),
    ]
    return sorted(dict.fromkeys(found), key=lambda one: (one.start, one.rule))
