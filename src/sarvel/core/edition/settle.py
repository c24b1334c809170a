"""Settling: what rendering weighed decides which formats of a crop pay. Pure, as compose is."""

from __future__ import annotations

import operator
from collections.abc import Container, Mapping, Sequence
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import TypeAlias

from sarvel.core.edition.compose import Crop, Edition, Picture
from sarvel.core.edition.rendition import Rendition
from sarvel.notices import Kind, Notice

PAYS = 0.03
"""A format whose files are not smaller by this share, in sum, than the next simpler one's is left out: the markup would grow
by a source, and a cache would hold one file more, for nothing that anyone notices."""


SURE = 0.1
"""How far beyond that, on each rung that numbers were searched on, the files of a format must lie so that its others are not even
made: of photographs and drawings the ratio of two formats differs by less than that between the rungs of a ladder."""

Unpaid: TypeAlias = Mapping[str, tuple[str, int, int]]
"""Formats that were found out early, by the key of their search: the simpler format, and bytes of the searched rungs of both."""


def surely_not_paying(tried: Mapping[str, Sequence[int]]) -> dict[str, str]:
    """Formats of a crop that would not pay, going by the rungs that numbers were searched on, each with the simpler one.

    Args:
        tried: bytes of files of the same rungs by format, best first; the simplest always stays.
    """
    if not tried:
        return {}
    *better, simpler = tried
    dropped = {}
    for name in reversed(better):
        if all(own > (1 - PAYS) * (1 + SURE) * other for own, other in zip(tried[name], tried[simpler], strict=True)):
            dropped[name] = simpler
        else:
            simpler = name
    return dropped


@dataclass(frozen=True)
class LeftOut:
    """A format that does not pay for a crop.

    Attributes:
        format: the format that is left out, or one width of it.
        weight: bytes of its files together.
        simpler: the format that it was compared with, or a wider file that weighs less.
        simpler_weight: bytes of that one's files.
        early: whether only the rungs were weighed that its number was searched on.
        kind: whether it is a format or one width of it.
    """

    slot: str
    master: str
    crop: str
    format: str
    weight: int
    simpler: str
    simpler_weight: int
    renditions: tuple[Rendition, ...]
    early: bool = False
    kind: Kind = Kind.UNPAID

    @property
    def notice(self) -> Notice:
        """A note of it."""
        where = f"slots.{self.slot}: {self.master}" + (f": crop {self.crop}" if self.crop else "")
        files = f"its {'first ' if self.early else ''}files weigh {self.weight / 1000:.1f} kB"
        than = f"those of {self.simpler} {self.simpler_weight / 1000:.1f} kB"
        return Notice(self.kind, where, f"{self.format} is left out: {files}, {than}", severity="note")


def settle(
    edition: Edition, weights: Mapping[str, int], unpaid: Unpaid = MappingProxyType({})
) -> tuple[Edition, tuple[LeftOut, ...]]:
    """The Edition without the formats that do not pay.

    Args:
        weights: bytes of renditions by name. A crop with a missing one is not changed, because it is not made yet.
        unpaid: formats that were found out before all their files were made.

    Returns:
        The Edition to publish, and the formats and widths left out.
    """
    left_out: list[LeftOut] = []
    pictures = {pair: _settled(picture, weights, unpaid, left_out) for pair, picture in edition.pictures.items()}
    return Edition(pictures), tuple(left_out)


def as_there(edition: Edition, there: Container[str]) -> Edition:
    """The Edition with existing files only, for crops whose widest file of some format exists."""
    pictures = {}
    for pair, picture in edition.pictures.items():
        crops = []
        for crop in picture.crops:
            ladders = {name: ladder for name, ladder in crop.renditions.items() if ladder[-1].name in there}
            kept = {name: tuple(one for one in ladder if one.name in there) for name, ladder in ladders.items()}
            crops.append(replace(crop, renditions=kept or crop.renditions))
        pictures[pair] = replace(picture, crops=tuple(crops))
    return Edition(pictures)


def _settled(picture: Picture, weights: Mapping[str, int], unpaid: Unpaid, left_out: list[LeftOut]) -> Picture:
    crops = []
    for whole in picture.crops:
        crop = _without(picture, whole, unpaid, left_out)
        dropped = _not_paying(crop, weights)
        for format_, simpler in dropped.items():
            files = crop.renditions[format_]
            sums = [sum(weights[one.name] for one in crop.renditions[name]) for name in (format_, simpler)]
            names = (picture.slot.name, picture.master.key, crop.rule.name)
            left_out.append(LeftOut(*names, format_, sums[0], simpler, sums[1], files))
        kept = {name: files for name, files in crop.renditions.items() if name not in dropped}
        for name, files in kept.items():
            undercut = _undercut(files, weights)
            kept[name] = tuple(one for one in files if one not in undercut)
            names = (picture.slot.name, picture.master.key, crop.rule.name)
            for one, wider in undercut.items():
                what, other = f"{name} of {one.width} px", f"{wider.width} px"
                weighed = (weights[one.name], other, weights[wider.name])
                left_out.append(LeftOut(*names, what, *weighed, (one,), kind=Kind.UNDERCUT))
        crops.append(whole if kept == dict(whole.renditions) else replace(whole, renditions=kept))
    return picture if all(map(operator.is_, crops, picture.crops)) else replace(picture, crops=tuple(crops))


def _without(picture: Picture, crop: Crop, unpaid: Unpaid, left_out: list[LeftOut]) -> Crop:
    """A crop without the formats that were found out early."""
    kept = dict(crop.renditions)
    for name, files in crop.renditions.items():
        search = files[0].encoding.search
        simpler, weight, other = unpaid.get(search.key if search else "", ("", 0, 0))
        if simpler != name and simpler in kept:
            of = (picture.slot.name, picture.master.key, crop.rule.name)
            left_out.append(LeftOut(*of, name, weight, simpler, other, kept.pop(name), early=True))
    return crop if len(kept) == len(crop.renditions) else replace(crop, renditions=kept)


def _undercut(ladder: tuple[Rendition, ...], weights: Mapping[str, int]) -> dict[Rendition, Rendition]:
    """The files of a ladder that a wider one undercuts, as a master that is light already may, each with that one."""
    if any(one.name not in weights for one in ladder):
        return {}
    lightest = {one: min(ladder[i + 1 :], key=lambda wider: weights[wider.name]) for i, one in enumerate(ladder[:-1])}
    return {one: wider for one, wider in lightest.items() if weights[wider.name] < weights[one.name]}


def _not_paying(crop: Crop, weights: Mapping[str, int]) -> dict[str, str]:
    """Formats to leave out, each with the simpler one that it was compared with. The simplest always stays."""
    if any(one.name not in weights for ladder in crop.renditions.values() for one in ladder):
        return {}
    sums = {name: sum(weights[one.name] for one in ladder) for name, ladder in crop.renditions.items()}
    *better, simpler = sums
    dropped = {}
    for name in reversed(better):
        if sums[name] > (1 - PAYS) * sums[simpler]:
            dropped[name] = simpler
        else:
            simpler = name
    return dropped
