"""Drafted slots for links, posters, images for sharing and icons that name masters."""

from __future__ import annotations

from pathlib import Path

from sarvel.core.html.mentions import Use
from sarvel.plan.draft import Mentions
from sarvel.plan.schema import ICON_WIDTHS
from sarvel.tools.survey import Survey

TAKEN = frozenset({"JPEG", "PNG", "WEBP", "AVIF", "TIFF", "JXL", "MPO", "BMP"})
"""Formats that can be masters."""

_USES: tuple[tuple[Use, str, int], ...] = (
    ("link", "1600px", 1600),
    ("share", "", 1),
    ("single", "100vw", 1),
    ("icon", "", ICON_WIDTHS[-1]),
)  # with the sizes to begin with, and the px across from which a file is worth a smaller one


def mentions_of(
    found: Survey, masters: Path, pages: set[Path], left: dict[str, list[str]], *, shares: bool
) -> list[Mentions]:
    """The mentions of a site that name files in its masters folder.

    Args:
        pages: pages of the plan; those of the mentions are added.
        left: places that the plan does not take, by reason; more are added.
        shares: whether the address is known that the site is published at.
    """
    rows = [row for row in found.rows if row.header.format in TAKEN and row.header.frames == 1]
    rows = [row for row in rows if masters in row.file.resolve().parents]
    mentions = []
    for use, sizes, least in _USES:
        wide = (row for row in rows if row.header.width >= least)
        places = [placed for row in wide for placed in row.uses if placed.use.kind == use]
        if places and use == "share" and not shares:
            left['is for sharing; write the address of the site as url, and a slot with use = "share"'] = list(
                map(str, places)
            )
        elif places:
            pages.update(placed.file for placed in places)
            mentions.append(Mentions(use, list(map(str, places)), sizes))
    return mentions
