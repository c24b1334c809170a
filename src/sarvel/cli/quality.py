"""What `sarvel plan --quality` shows: how each format of each cut is encoded, and how alike it looks."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from sarvel.core.edition import Picture
from sarvel.core.plan import ONLY_CUT
from sarvel.core.rendition import Encoding
from sarvel.press.numbers import Numbers

if TYPE_CHECKING:
    from rich.table import Table


def quality_table(pictures: list[Picture], numbers: Mapping[str, Numbers]) -> Table:
    """A row a cut, a column a format: the encoder's number, and the likeness that it reaches."""
    from rich import box  # noqa: PLC0415 - slow to load, and --json needs none
    from rich.table import Table  # noqa: PLC0415 - as above

    formats = list(dict.fromkeys(name for picture in pictures for cut in picture.cuts for name in cut.renditions))
    table = Table(box=box.SIMPLE_HEAD, padding=(0, 1, 0, 0), pad_edge=False)
    table.add_column("master", overflow="ellipsis", no_wrap=True, max_width=26)
    table.add_column("cut", no_wrap=True)
    table.add_column("is", no_wrap=True)
    for name in formats:
        table.add_column(name)
    for picture in pictures:
        for i, cut in enumerate(picture.cuts):
            table.add_row(
                "" if i else picture.master.key,
                cut.rule.name or ONLY_CUT,
                "drawn" if cut.drawn else "photo",
                *(
                    _told(cut.renditions[name][0].encoding, numbers) if name in cut.renditions else "left out"
                    for name in formats
                ),
            )
    return table


def as_json(encoding: Encoding, numbers: Mapping[str, Numbers]) -> dict[str, object]:
    """How a format of a cut is encoded."""
    if encoding.lossless:
        return {"lossless": True}
    if encoding.tuning is None:
        return {"quality": encoding.quality, "by_hand": True}
    found = numbers.get(encoding.tuning.key)
    points = found.points if found else ()
    tried = [{"width": width, "quality": number, "likeness": likeness} for width, number, likeness in points]
    return {"target": encoding.tuning.likeness, "tried": tried}


def _told(encoding: Encoding, numbers: Mapping[str, Numbers]) -> str:
    if encoding.lossless:
        return "lossless"
    if encoding.tuning is None:
        return f"{encoding.quality} by hand"
    found = numbers.get(encoding.tuning.key)
    if found is None:
        return "not searched yet"
    tried = [number for _, number, _ in found.points]
    span = f"{min(tried)}–{max(tried)}" if min(tried) < max(tried) else f"{tried[0]}"
    return f"{span} ({found.points[-1][2]:.1f})"
