"""A master's pixels: decoded, turned upright, in 8 bits, in sRGB or in the wide gamut."""

from __future__ import annotations

import functools
import io
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from PIL import Image, ImageCms, ImageOps

from sarvel.core.crop.turn import Turn
from sarvel.core.pixels.resample import Light, Pixels, light_of, reduce_light, reduce_pixels
from sarvel.core.pixels.treat import Reduce, turn_pixels
from sarvel.core.plan import Gamut
from sarvel.press.masters import opened
from sarvel.press.profiles import display_p3, profile_of, srgb

MOST_LIGHT = 75_000_000
"""Samples of a master (three a pixel) that are turned into light as a whole: 300 MB. Larger ones pass in strips, each time."""


@dataclass(frozen=True)
class Decoded:
    """A master, decoded.

    Attributes:
        pixels: (height, width, 3), or 4 with straight alpha if it can be transparent; upright.
        profile: the profile of its colors, of Display P3; b"" if they are sRGB.
    """

    pixels: Pixels
    profile: bytes = b""
    _lights: dict[tuple[Turn, bool], Light] = field(default_factory=dict, repr=False, compare=False)

    def reducer(self, turn: Turn, *, mirror: bool) -> Reduce:
        """What makes any box of the master, turned and mirrored, at any size. Many sizes cost little more than a few."""
        pixels = turn_pixels(self.pixels, turn, mirror=mirror)
        if pixels.size > MOST_LIGHT:
            return functools.partial(reduce_pixels, pixels)
        if (turn, mirror) not in self._lights:
            self._lights.clear()  # one is as much as memory should hold
            self._lights[turn, mirror] = light_of(pixels)
        light = self._lights[turn, mirror]
        return lambda box, width, height: reduce_light(light, width, height, box)


def read_pixels(file: Path, key: str) -> Pixels:
    """A master's pixels in sRGB, as `decode` gives them.

    Raises:
        MasterError: it cannot be decoded to its end.
    """
    return decode(file, key, "srgb").pixels


def decode(file: Path, key: str, gamut: Gamut) -> Decoded:
    """Decodes a master.

    Args:
        file: the master.
        key: what messages call it.
        gamut: "wide" brings a master that has a profile of other RGB colors than sRGB into Display P3.

    Raises:
        MasterError: it cannot be decoded to its end.
    """
    with opened(file, key) as image:
        alpha = image.has_transparency_data
        try:
            profile = profile_of(image)
        except ImageCms.PyCMSError:  # told of with the master's facts
            profile = None
        upright = ImageOps.exif_transpose(_eight_bits(image))
        wide = gamut == "wide" and profile is not None and image.mode in ("RGB", "RGBA", "P", "PA")
        color = _converted(upright, profile, alpha=alpha, wide=wide)
        return Decoded(np.asarray(color), display_p3() if wide else b"")


def _eight_bits(image: Image.Image) -> Image.Image:
    """Grey of 16 bits or of floats as 8 bits; Pillow's own conversion would cut all above 255 to white."""
    if not image.mode.startswith(("I", "F")):
        return image
    levels = np.asarray(image).astype(np.float64)
    most = 65535.0 if levels.max(initial=0.0) > 1.0 else 1.0
    eight = Image.fromarray(np.rint(np.clip(levels / most, 0.0, 1.0) * 255).astype(np.uint8))
    eight.info["exif"] = image.info.get("exif", b"")
    return eight


def _converted(image: Image.Image, profile: ImageCms.ImageCmsProfile | None, *, alpha: bool, wide: bool) -> Image.Image:
    """RGB, or RGBA: relative colorimetric with black point compensation (ICC.1:2022, section 6.2)."""
    if profile is None:
        return image.convert("RGBA" if alpha else "RGB")
    color = (
        image.convert("RGB")
        if image.mode in ("P", "PA", "RGBA")
        else image.convert("L")
        if image.mode == "LA"
        else image
    )
    converted = ImageCms.profileToProfile(
        color,
        profile,
        ImageCms.ImageCmsProfile(io.BytesIO(display_p3())) if wide else srgb(),
        renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
        outputMode="RGB",
        flags=ImageCms.Flags.BLACKPOINTCOMPENSATION,
    )
    if converted is None:  # pragma: no cover - only where it is told to work in place
        raise AssertionError
    if alpha:
        converted.putalpha(image.convert("RGBA").getchannel("A"))
    return converted
