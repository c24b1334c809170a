"""The formats of a crop, and the widths of each: docs/inside.md, "Formats".

Visits fetch the first format that they read. So each format has a ladder of its own, by how many fetch it; and one between the
first and the last is left out if it spares its visits less than its files and its place in the markup cost everyone.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from operator import truediv
from types import MappingProxyType

from sarvel.core.edition.demand import CropDemand
from sarvel.core.edition.expected import expected_bytes
from sarvel.core.layout.growth import growth_of
from sarvel.core.layout.ladder import VISITS, Ladder, Terms

READS: Mapping[str, float] = MappingProxyType({"avif": 0.94, "webp": 0.97, "jxl": 0.15})
"""The share of visits whose browser reads a format; of other formats, all. An assumption of December 2026: browsers
have read WebP since 2020 and AVIF since 2022 or 2024, JPEG XL in one engine alone. `reads` under [site] says otherwise."""

NAMED = 27 + 15_000 / VISITS
"""Bytes a visit that a file costs in addition to its own: its name in pages, compressed; and its place in caches, lists and
uploads, which counts as 15 kB, our choice."""

SOURCE = 60
"""Bytes that a source adds to a page, compressed, without the names of files."""

PAYS = 0.03
"""A format whose files are not smaller by this share, in sum, than the next simpler one's is left out: the markup would grow
by a source, and a cache would hold one file more, for nothing that anyone notices. If few fetch it, more is asked."""

_MOST_SPARED = (
    0.45  # of the bytes: by no more is a photograph ever lighter in one of two such formats; so nothing is tried
)
_FEWEST = 0.005  # of visits that a format is made for, even if no one is known to need it
_APART = 1.25  # the ratio of neighbouring shapes that count as one: bytes of names hardly weigh


@dataclass(frozen=True)
class Few:
    """A format that is left out because few would fetch it.

    Attributes:
        readers: the share of the crop's visits that would fetch it.
        cost: bytes that its files and its place in the markup would cost a visit of the page.
        fetched: bytes that such a visit fetches without it, on average.
    """

    format: str
    readers: float
    cost: float
    fetched: float


@dataclass(frozen=True)
class FormatChoice:
    """The formats of a crop.

    Attributes:
        ladders: by format, best first.
        terms: those of the first format.
        pays: how much less the files of a format must weigh than those of the next simpler one, a share; by format.
        readers: the share of the crop's visits that fetch each format; empty where all have the same widths.
    """

    ladders: Mapping[str, Ladder]
    terms: Terms
    pays: Mapping[str, float]
    readers: Mapping[str, float]
    few: tuple[Few, ...]


def readers_of(formats: Sequence[str], reads: Mapping[str, float]) -> dict[str, float]:
    """The share of visits that fetch each of some formats, best first: who reads a rarer one reads the commoner ones, too."""
    found: dict[str, float] = {}
    served = 0.0
    for number, name in enumerate(formats):
        upto = 1.0 if number == len(formats) - 1 else max(served, reads.get(name, 1.0))
        found[name], served = max(upto - served, _FEWEST), upto
    return found


def formats_of(
    met: CropDemand,
    own_width: int,
    heavy: float,
    formats: Sequence[str],
    reads: Mapping[str, float] | None,
    gone: int = 0,
    *,
    drawn: bool,
) -> FormatChoice:
    """Chooses the formats of a crop, and the widths of each.

    Args:
        own_width: px across that the master gives the crop.
        heavy: bytes of its files next to those of a square of the same width and kind.
        formats: formats of the slot that the crop can have, best first.
        reads: the share of visits that read each format, 1 where it says nothing; None if one address serves all formats, or
            files are made when they are asked for: then all are made, at the same widths.
        gone: how many formats turned out not to pay. The first keeps the widths that it has with them.
        drawn: whether it is flat graphics.
    """
    step = round(math.log(heavy) / math.log(_APART))
    key = (met.limited(own_width), step, tuple(formats), gone, drawn)
    if key not in met.choices:
        met.choices[key] = _chosen(met, own_width, _APART**step, formats, reads, gone, drawn=drawn)
    choice: FormatChoice = met.choices[key]
    return choice


def _chosen(
    met: CropDemand,
    own_width: int,
    heavy: float,
    formats: Sequence[str],
    reads: Mapping[str, float] | None,
    gone: int = 0,
    *,
    drawn: bool,
) -> FormatChoice:
    slot = met.slot
    first = Terms(slot.rungs, slot.excess, growth_of(formats[0], drawn=drawn), (len(formats) + gone) / VISITS)
    ladder = met.ladder(own_width, first)
    if reads is None:
        return FormatChoice(dict.fromkeys(formats, ladder), first, dict.fromkeys(formats, PAYS), {}, ())

    def tried(some: Sequence[str]) -> dict[str, _Tried]:
        found: dict[str, _Tried] = {}
        for name, share in readers_of(some, reads).items():
            unit = heavy * expected_bytes(name, (1, 1), slot.finish, drawn=drawn)  # the bytes of w^g = 1
            growth = growth_of(name, drawn=drawn)
            terms = Terms(len(ladder.widths), None, growth, 1 / (VISITS * share), NAMED / (unit * share * met.share))
            own = met.ladder_among(ladder.widths, terms) if found else ladder
            kept = unit * sum(width**growth for width in own.widths) / VISITS
            found[name] = _Tried(own, share, met.share * unit * own.fitness.fetched, met.share * kept)
        return found

    names, few, pays = list(formats), [], dict.fromkeys(formats, PAYS)
    for name in reversed(formats[1:-1]):
        fewer = [one for one in names if one != name]
        simpler = names[names.index(name) + 1]
        more, less = tried(names), tried(fewer)
        own, spared = more[name], sum(one.cost for one in less.values()) - sum(one.cost for one in more.values())
        middle = (own.ladder.widths[len(own.ladder.widths) // 2],) * 2
        weights = (expected_bytes(one, middle, slot.finish, drawn=drawn) for one in (simpler, name))
        # How much lighter than the simpler format it must be at the same widths to be worth its cost.
        lighter = 1 - (own.bytes + spared) / (own.bytes * truediv(*weights))
        if lighter > _MOST_SPARED:
            few.append(Few(name, own.share, own.named + own.kept, less[simpler].fetched / met.share))
            names = fewer
        else:
            pays[name] = max(PAYS, lighter)
    ladders = {name: one.ladder for name, one in tried(names).items()}
    if len(names) > 2:  # once files are weighed, none in the middle may pay: the last has the widths that it needs then
        ladders[names[-1]] = tried([names[0], names[-1]])[names[-1]].ladder
    return FormatChoice(ladders, first, pays, readers_of(names, reads), tuple(reversed(few)))


@dataclass(frozen=True)
class _Tried:
    """A format of a crop.

    Attributes:
        share: of the crop's visits, that fetch it.
        fetched: bytes a visit of the page, if all fetched it.
        kept: bytes of its files a visit.
    """

    ladder: Ladder
    share: float
    fetched: float
    kept: float

    @property
    def named(self) -> float:
        """Bytes of its markup."""
        return SOURCE + NAMED * len(self.ladder.widths)

    @property
    def bytes(self) -> float:
        """Bytes a visit that follow from how much its files weigh."""
        return self.share * self.fetched + self.kept

    @property
    def cost(self) -> float:
        """All its bytes a visit."""
        return self.bytes + self.named
