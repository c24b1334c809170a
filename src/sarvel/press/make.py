"""What one worker does: one master decoded once, all its missing renditions made from it."""

from __future__ import annotations

from collections.abc import Iterator

from sarvel.core.pixels.resample import Light, Pixels, pixels_from_light, reduce_light, reduce_pixels
from sarvel.core.pixels.treat import grey_of, lay_on, reduce_padded, turn_pixels
from sarvel.core.plan import Treatment
from sarvel.errors import MasterError
from sarvel.press.codecs import CODECS
from sarvel.press.decode import read_pixels
from sarvel.press.files import write_whole
from sarvel.press.work import CutWork, Made, MasterWork, Size

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
            for size, made in rungs(pixels, cut):
                for rendition in cut.files[size]:
                    content = CODECS[rendition.format].encode(made, rendition.finish)
                    write_whole(work.output / rendition.name, content)
                    names.append(rendition.name)
    except MasterError as error:
        return Made(work.key, tuple(names), str(error))
    return Made(work.key, tuple(names))


def rungs(pixels: Pixels, cut: CutWork) -> Iterator[tuple[Size, Pixels]]:
    """One cut at all its sizes, largest first, each made from the smallest that is large enough to make it from.

    Args:
        pixels: the master, upright.
        cut: where it lies, what is done to it, and its sizes.
    """
    treatment = cut.treatment
    pixels = turn_pixels(pixels, treatment.turn, mirror=treatment.mirror)
    made: list[Light] = []
    for width, height in sorted(cut.files, reverse=True):
        larger = [light for light in made if light.shape[2] >= _WIDE_ENOUGH * width]
        if treatment.pad:  # each on its own, so that the edge of the picture stays where pixels end
            light = reduce_padded(pixels, cut.box, width, height, treatment.pad)
        elif larger:
            light = reduce_light(min(larger, key=lambda light: light.shape[2]), width, height)
        else:
            light = reduce_pixels(pixels, cut.box, width, height)
        made.append(light)
        yield (width, height), pixels_from_light(_finished(light, treatment))


def _finished(light: Light, treatment: Treatment) -> Light:
    if treatment.background:
        light = lay_on(light, treatment.background)
    return grey_of(light) if treatment.grey else light
