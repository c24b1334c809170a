"""What there is to do for one master, as data that can be sent to a worker, and what became of it."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from sarvel.core.crop.place import Box
from sarvel.core.edition import Picture, Rendition

Size = tuple[int, int]


@dataclass(frozen=True)
class CutWork:
    """One crop of a master and the files to make of it.

    Attributes:
        box: px of the upright master.
        files: the renditions to make of each size (width, height), px.
    """

    box: Box
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


def plan_work(pictures: list[Picture], folder: Path, output: Path, missing: set[str]) -> MasterWork:
    """The work on one master.

    Args:
        pictures: the pictures of that master, at least one.
        folder: the masters folder.
        output: where renditions go.
        missing: names of renditions to make; each is made once, though two pictures ask for it.
    """
    left = set(missing)
    cuts: dict[Box, dict[Size, list[Rendition]]] = {}
    for cut in (cut for picture in pictures for cut in picture.cuts):
        for rendition in (rendition for ladder in cut.renditions.values() for rendition in ladder):
            if rendition.name in left:
                left.discard(rendition.name)
                size = rendition.width, rendition.height
                cuts.setdefault(cut.box, {}).setdefault(size, []).append(rendition)
    key = pictures[0].master.key
    works = tuple(CutWork(box, {size: tuple(files) for size, files in sizes.items()}) for box, sizes in cuts.items())
    return MasterWork(key, folder / key, output, works)
