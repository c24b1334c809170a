"""What one worker does: one master decoded once, all its missing renditions made from it. A pure task, sent as data."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from sarvel.core.crop.place import Box
from sarvel.core.edition import Picture, Rendition
from sarvel.core.pixels.resample import Light, Pixels, pixels_from_light, reduce_light, reduce_pixels
from sarvel.errors import MasterError
from sarvel.press.codecs import CODECS
from sarvel.press.files import write_whole
from sarvel.press.masters import read_pixels

Size = tuple[int, int]

# Design rule "Resampling": a smaller rung may be made from a larger one if that is at least twice as wide.
_WIDE_ENOUGH = 2


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
        for rendition in (rendition for ladder in cut.ladders.values() for rendition in ladder):
            if rendition.name in left:
                left.discard(rendition.name)
                size = rendition.width, rendition.height
                cuts.setdefault(cut.box, {}).setdefault(size, []).append(rendition)
    key = pictures[0].master.key
    works = tuple(CutWork(box, {size: tuple(files) for size, files in sizes.items()}) for box, sizes in cuts.items())
    return MasterWork(key, folder / key, output, works)


def do_work(work: MasterWork) -> Made:
    """Makes all files of one master; a fault of the master ends it early and is told, not raised.

    Raises:
        OutputError: a file cannot be written, which would go for every master.
    """
    names: list[str] = []
    try:
        pixels = read_pixels(work.file, work.key)
        for cut in work.cuts:
            for size, made in rungs(pixels, cut.box, list(cut.files)):
                for rendition in cut.files[size]:
                    content = CODECS[rendition.format].encode(made, rendition.finish)
                    write_whole(work.output / rendition.name, content)
                    names.append(rendition.name)
    except MasterError as error:
        return Made(work.key, tuple(names), str(error))
    return Made(work.key, tuple(names))


def rungs(pixels: Pixels, box: Box, sizes: list[Size]) -> Iterator[tuple[Size, Pixels]]:
    """One cut at several sizes, largest first, each made from the smallest that is large enough to make it from.

    Args:
        pixels: the master.
        box: the cut, px of the master.
        sizes: (width, height), px, each once.
    """
    kept: list[Light] = []
    for width, height in sorted(sizes, reverse=True):
        larger = [light for light in kept if light.shape[2] >= _WIDE_ENOUGH * width]
        if larger:
            light = reduce_light(min(larger, key=lambda light: light.shape[2]), width, height)
        else:
            light = reduce_pixels(pixels, box, width, height)
        kept.append(light)
        yield (width, height), pixels_from_light(light)
