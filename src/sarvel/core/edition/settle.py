"""Settling: what rendering weighed decides which formats of a crop pay. Pure, as compose is."""

from __future__ import annotations

import itertools
import math
import operator
from collections.abc import Container, Mapping
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import TypeAlias

from sarvel.core.edition.compose import Crop, Edition, Picture
from sarvel.core.edition.formats import NAMED, PAYS, SOURCE
from sarvel.core.edition.rendition import Rendition
from sarvel.core.layout.growth import growth_of
from sarvel.core.layout.ladder import VISITS
from sarvel.notices import Kind, Notice

SURE = 0.1
"""How far beyond that, on each rung that numbers were searched on, the files of a format must lie so that its others are not even
made: of photographs and drawings the ratio of two formats differs by less than that between the rungs of a ladder. Of a format
that few fetch nothing is lost by a mistake, and the searched rungs decide."""

Unpaid: TypeAlias = Mapping[str, tuple[str, int, int]]
"""Formats that were found out early, by the key of their search: the simpler format, and bytes of the searched rungs of both."""


@dataclass(frozen=True)
class FormatBytes:
    """The bytes of files of one format, by their width in px; at least one.

    Attributes:
        growth: g of b(w) = w^g beyond the widths that were weighed.
    """

    files: Mapping[int, int]
    growth: float

    def at(self, width: int) -> float:
        """About the bytes of a file of this width: those of the files on both sides tell, or else the nearest."""
        below = max((one for one in self.files if one <= width), default=0)
        above = min((one for one in self.files if one >= width), default=0)
        if not (below and above) or below == above:
            nearest = below or above
            return float(self.files[nearest] * (width / nearest) ** self.growth)
        part = math.log(width / below) / math.log(above / below)
        return float(self.files[below] * (self.files[above] / self.files[below]) ** part)

    def at_widths_of(self, other: FormatBytes) -> float:
        """About the bytes of files at the widths of another format's."""
        return sum(map(self.at, other.files))

    @property
    def sum(self) -> int:
        """The bytes of all files."""
        return sum(self.files.values())


def surely_not_paying(tried: Mapping[str, FormatBytes], pays: Mapping[str, float]) -> dict[str, str]:
    """Formats of a crop that would not pay, going by the rungs that numbers were searched on, each with the simpler one.

    Args:
        tried: files by format, best first; the simplest always stays.
        pays: how much less the files of a format must weigh than those of the next simpler one, a share; by format.
    """
    if not tried:
        return {}
    *better, simpler = tried
    dropped = {}
    for name in reversed(better):
        least = (1 - pays[name]) * (1 + (SURE if pays[name] <= PAYS else 0))
        if all(own > least * tried[simpler].at(width) for width, own in tried[name].files.items()):
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
        simpler_weight: bytes of the files of `simpler` at the same widths, or nearly.
        renditions: files that are not needed.
        few: whether it is no format that most visits fetch.
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
    few: bool = False
    early: bool = False
    kind: Kind = Kind.UNPAID

    @property
    def notice(self) -> Notice:
        """A note of it."""
        where = f"slots.{self.slot}: {self.master}" + (f": crop {self.crop}" if self.crop else "")
        files = f"its {'first ' if self.early else ''}files weigh {self.weight / 1000:.1f} kB"
        than = f"those of {self.simpler} {self.simpler_weight / 1000:.1f} kB"
        share = 0.0 if self.few else None
        return Notice(self.kind, where, f"{self.format} is left out: {files}, {than}", severity="note", share=share)


def settle(
    edition: Edition, weights: Mapping[str, int], unpaid: Unpaid = MappingProxyType({})
) -> tuple[Edition, tuple[LeftOut, ...]]:
    """The Edition without the formats that do not pay.

    Args:
        weights: bytes of renditions by name. A crop with a missing one is not changed, because it is not made yet.
        unpaid: formats that were found out before all their files were made.

    Returns:
        The Edition, and the formats and widths left out. A crop that lost a format has the widths that suit the others:
        its files may not be made yet, and more may be left out once they are.
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
        crop = whole
        of = (picture.slot.name, picture.master.key, crop.rule.name)
        if dropped := _found_early(of, crop, unpaid) or _not_paying(of, crop, weights):
            crop = crop.less(frozenset(one.format for one in dropped))
            needed = {one.name for ladder in crop.renditions.values() for one in ladder}
            old = tuple(one for ladder in whole.renditions.values() for one in ladder if one.name not in needed)
            left_out += [replace(one, renditions=old) for one in dropped]
        kept = dict(crop.renditions)
        for number, (name, files) in enumerate(crop.renditions.items()):
            undercut = _undercut(files, weights)
            few = _few_fetch(crop, files, weights) if number else {}
            gone = few | undercut
            kept[name] = tuple(one for one in files if one not in gone)
            for one, wider in gone.items():
                what, other = f"{name} of {one.width} px", f"{wider.width} px"
                weighed = (weights[one.name], other, weights[wider.name])
                left_out.append(
                    LeftOut(
                        *of, what, *weighed, (one,), few=number > 0, kind=Kind.UNDERCUT if one in undercut else Kind.FEW
                    )
                )
        crops.append(crop if kept == dict(crop.renditions) else replace(crop, renditions=kept))
    return picture if all(map(operator.is_, crops, picture.crops)) else replace(picture, crops=tuple(crops))


def _found_early(of: tuple[str, str, str], crop: Crop, unpaid: Unpaid) -> list[LeftOut]:
    """The formats of a crop that were found out before all its files were made."""
    dropped = []
    for number, (name, files) in enumerate(crop.renditions.items()):
        search = files[0].encoding.search
        simpler, weight, other = unpaid.get(search.key if search else "", ("", 0, 0))
        if simpler != name and simpler in crop.renditions:
            dropped.append(LeftOut(*of, name, weight, simpler, other, (), few=number > 0, early=True))
    return dropped


def _undercut(ladder: tuple[Rendition, ...], weights: Mapping[str, int]) -> dict[Rendition, Rendition]:
    """The files of a ladder that a wider one undercuts, as a master that is light already may, each with that one."""
    if any(one.name not in weights for one in ladder):
        return {}
    lightest = {one: min(ladder[i + 1 :], key=lambda wider: weights[wider.name]) for i, one in enumerate(ladder[:-1])}
    return {one: wider for one, wider in lightest.items() if weights[wider.name] < weights[one.name]}


def _not_paying(of: tuple[str, str, str], crop: Crop, weights: Mapping[str, int]) -> list[LeftOut]:
    """Formats to leave out, each with the simpler one that it was compared with. The simplest always stays."""
    if any(one.name not in weights for ladder in crop.renditions.values() for one in ladder):
        return []
    weighed = {
        name: FormatBytes({one.width: weights[one.name] for one in ladder}, growth_of(name, drawn=crop.drawn))
        for name, ladder in crop.renditions.items()
    }
    *better, simpler = weighed
    dropped = []
    for name in reversed(better):
        other, readers = weighed[simpler].at_widths_of(weighed[name]), crop.readers.get(name, 0.0)
        pays = weighed[name].sum <= (1 - PAYS) * other
        if pays and readers and name != better[0]:
            own, alone = (_least(crop, weighed[one].files, crop.readers[one])[0] for one in (name, simpler))
            pays = own + SOURCE + alone < _least(crop, weighed[simpler].files, readers + crop.readers[simpler])[0]
        if pays:
            simpler = name
        else:
            dropped.append(LeftOut(*of, name, weighed[name].sum, simpler, round(other), (), few=name != better[0]))
    return dropped


def _least(crop: Crop, files: Mapping[int, int], readers: float) -> tuple[float, tuple[int, ...]]:
    """The bytes a visit of the page of a format, with those of its widths that cost least; and these widths.

    Rungs and costs are as in `layout.cheapest`, with bytes as weighed.

    Args:
        files: bytes of its files by width, px.
        readers: the share of the crop's visits that fetch it.
    """
    widths, met = sorted(files), crop.met
    upto = [0.0, *itertools.accumulate(met.fetched_among(widths).values())]
    ways: list[tuple[float, tuple[int, ...]]] = [(0.0, ())]
    for j, width in enumerate(widths, 1):
        kept = NAMED + met.share * files[width] / VISITS
        fetched = (met.share * readers * (upto[j] - upto[i]) * files[width] for i in range(j))
        cost, i = min((ways[i][0] + one + kept, i) for i, one in enumerate(fetched))
        ways.append((cost, (*ways[i][1], width)))
    return ways[-1]


def _few_fetch(crop: Crop, files: tuple[Rendition, ...], weights: Mapping[str, int]) -> dict[Rendition, Rendition]:
    """The files of a format that spare those who fetch it less than they cost everyone, each with the one in its place."""
    readers = crop.readers.get(files[0].format, 0.0)
    if not readers or crop.met.slot.widths or any(one.name not in weights for one in files):
        return {}
    _, widths = _least(crop, {one.width: weights[one.name] for one in files}, readers)
    return {
        one: next(wider for wider in files if wider.width in widths and wider.width > one.width)
        for one in files
        if one.width not in widths
    }
