"""Rungs: one crop of a master at one size."""

from __future__ import annotations

from sarvel.core.edition.encoding import Size
from sarvel.core.pixels.resample import Light
from sarvel.core.pixels.treat import grey_of, lay_on, light_of_color, pad_out
from sarvel.encode.decode import Decoded
from sarvel.encode.work import CropWork


def rung(master: Decoded, crop: CropWork, size: Size) -> Light:
    """One crop at a size, made from the master itself, so that it does not depend on which others are made.

    Args:
        size: width and height to make of it, px.
    """
    treatment, wide = crop.treatment, bool(master.profile)
    reduce = master.reducer(treatment.rotate, mirror=treatment.mirror)
    pad = treatment.pad and light_of_color(treatment.pad, wide=wide)
    light = reduce(crop.box, *size) if isinstance(pad, str) else pad_out(reduce, crop.box, *size, pad)
    if treatment.matte:
        light = lay_on(light, light_of_color(treatment.matte, wide=wide))
    return grey_of(light, wide=wide) if treatment.grey else light
