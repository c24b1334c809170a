"""What there is to do for one master, as data that can be sent to a worker, and what became of it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from sarvel.core.crop.place import Box
from sarvel.core.edition import Edition, Rendition
from sarvel.core.plan import Treatment

Size = tuple[int, int]


@dataclass(frozen=True)
class CutWork:
    """One crop of a master and the files to make of it.

    Attributes:
        box: px of the upright master, turned and mirrored as the treatment says.
        treatment: what is done to its pixels.
        files: the renditions to make of each size (width, height), px.
    """

    box: Box
    treatment: Treatment
    files: dict[Size, tuple[Rendition, ...]]


@dataclass(frozen=True)
class MasterWork:
    """All that is to be made of one master.

    Attributes:
        key: what messages call it.
        file: where it is.
        output: where renditions go.
        cuts: its crops.
    """

    key: str
    file: Path
    output: Path
    cuts: tuple[CutWork, ...]

    @property
    def count(self) -> int:
        """How many files it makes."""
        return sum(len(files) for cut in self.cuts for files in cut.files.values())

    @property
    def cost(self) -> int:
        """Pixels to encode: how long it takes, near enough to begin with the longest."""
        return sum(width * height * len(files) for cut in self.cuts for (width, height), files in cut.files.items())


@dataclass(frozen=True)
class Made:
    """What became of one master.

    Attributes:
        key: the master.
        names: the files written.
        fault: why not all were, or "".
    """

    key: str
    names: tuple[str, ...]
    fault: str = ""


def plan_work(edition: Edition, folder: Path, output: Path, missing: set[str]) -> list[MasterWork]:
    """The work on each master, longest first.

    Args:
        edition: what is to be there.
        folder: the masters folder.
        output: where renditions go.
        missing: names of renditions to make; each is made once, though two pictures ask for it.
    """
    left = set(missing)
    masters: dict[str, dict[tuple[Box, Treatment], dict[Size, list[Rendition]]]] = {}
    for cut in (cut for picture in edition.pictures.values() for cut in picture.cuts):
        for rendition in (rendition for ladder in cut.renditions.values() for rendition in ladder):
            if rendition.name in left:
                left.discard(rendition.name)
                cuts = masters.setdefault(cut.source.key, {})
                sizes = cuts.setdefault((cut.box, cut.rule.treatment), {})
                sizes.setdefault((rendition.width, rendition.height), []).append(rendition)
    works = [MasterWork(key, folder / key, output, _cut_works(cuts)) for key, cuts in masters.items()]
    return sorted(works, key=lambda work: -work.cost)


def _cut_works(cuts: dict[tuple[Box, Treatment], dict[Size, list[Rendition]]]) -> tuple[CutWork, ...]:
    return tuple(
        CutWork(box, treatment, {size: tuple(files) for size, files in sizes.items()})
        for (box, treatment), sizes in cuts.items()
    )
