"""The table of `sarvel plan --quality`: encoder numbers of each crop and format, and the likeness reached."""

from __future__ import annotations

from collections.abc import Mapping

from sarvel.cli.ui.table import Column, Table
from sarvel.core.edition.compose import Picture
from sarvel.core.edition.encoding import EncoderNumbers, Encoding
from sarvel.core.model import ONLY_CROP


def quality_table(pictures: list[Picture], numbers: Mapping[str, EncoderNumbers]) -> Table:
    """A row for each crop, a column for each format: the encoder's number, and the likeness that it reaches."""
    formats = list(dict.fromkeys(name for picture in pictures for crop in picture.crops for name in crop.renditions))
    table = Table(
        [Column("master", "name"), Column("crop"), Column("is", spare=1), *(Column(name) for name in formats)]
    )
    for picture in pictures:
        for i, crop in enumerate(picture.crops):
            ladders = [crop.renditions.get(name) for name in formats]
            table.add(
                "" if i else picture.master.key,
                crop.rule.name or ONLY_CROP,
                "graphic" if crop.drawn else "photo",
                *(_told(ladder[0].encoding, numbers) if ladder else "left out" for ladder in ladders),
            )
    return table


def as_json(encoding: Encoding, numbers: Mapping[str, EncoderNumbers]) -> dict[str, object]:
    """The encoding of one format of a crop, as JSON."""
    if encoding.lossless:
        return {"lossless": True}
    if encoding.search is None:
        return {"quality": encoding.quality, "by_hand": True}
    found = numbers.get(encoding.search.key)
    points = found.points if found else ()
    tried = [{"width": width, "quality": number, "likeness": likeness} for width, number, likeness in points]
    return {"target": encoding.search.likeness, "tried": tried}


def _told(encoding: Encoding, numbers: Mapping[str, EncoderNumbers]) -> str:
    if encoding.lossless:
        return "lossless"
    if encoding.search is None:
        return f"{encoding.quality} (plan)"
    found = numbers.get(encoding.search.key)
    if found is None:
        return "not searched yet"
    tried = [number for _, number, _ in found.points]
    span = f"{min(tried)}–{max(tried)}" if min(tried) < max(tried) else f"{tried[0]}"
    return f"{span} ({found.points[-1][2]:.1f})"
