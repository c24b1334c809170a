"""What one worker does: one master decoded once, all its missing renditions made from it."""

from __future__ import annotations

from collections.abc import Iterator

from sarvel.core.crop.place import Box
from sarvel.core.pixels.resample import Light, Pixels, pixels_from_light, reduce_light, reduce_pixels
from sarvel.errors import MasterError
from sarvel.press.codecs import CODECS
from sarvel.press.decode import read_pixels
from sarvel.press.files import write_whole
from sarvel.press.work import Made, MasterWork, Size

# Design rule "Resampling": a smaller rung may be made from a larger one if that is at least twice as wide.
_WIDE_ENOUGH = 2


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
