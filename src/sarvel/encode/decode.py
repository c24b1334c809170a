"""A master's pixels: decoded once, and handed out in bands: upright, in 8 bits, in sRGB or in the wide gamut.

Pillow holds four bytes for each pixel. Nothing else of a large master is ever held whole: neither a second
copy of its bytes nor its light.
"""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from PIL import Image, ImageCms

from sarvel.core.crop.turn import Turn
from sarvel.core.model import Gamut
from sarvel.core.pixels.resample import Each, Light, Pixels, light_of_rows, reduce_light, reduce_rows
from sarvel.core.pixels.treat import Reduce
from sarvel.encode.color_profiles import display_p3, profile_of, srgb
from sarvel.encode.masters import MasterFile, opened
from sarvel.encode.orientation import moved_size, moves_of, stored_box, upright_moves

MOST_LIGHT = 75_000_000
"""Samples of a master (three a pixel) that are turned into light as a whole: 300 MB. Larger ones pass in bands, each time."""

_BAND = 256  # rows converted at a time


@dataclass(frozen=True)
class Decoded:
    """A master, decoded.

    Attributes:
        convert: makes a part of it RGB or RGBA, 8 bits a sample.
        channels: 3, or 4 with straight alpha if it can be transparent.
        profile: the profile of its colors, of Display P3; b"" if they are sRGB.
    """

    image: Image.Image
    convert: Callable[[Image.Image], Image.Image]
    channels: int
    moves: tuple[Image.Transpose, ...] = ()
    profile: bytes = b""
    _lights: dict[tuple[Turn, bool], Light] = field(default_factory=dict, repr=False, compare=False)

    @classmethod
    def of(cls, pixels: Pixels) -> Decoded:
        """Pixels that are upright sRGB already."""
        return cls(Image.fromarray(pixels), lambda part: part, pixels.shape[2])

    def pixels(self) -> Pixels:
        """All of it, upright: (height, width, channels)."""
        return self._rows(self.moves)(slice(None))

    def reducer(self, turn: Turn, *, mirror: bool, each: Each = map) -> Reduce:
        """A function that makes any box of the master, turned and mirrored, at any size. Many sizes cost little more than few.

        Args:
            mirror: whether it is mirrored.
        """
        moves = (*self.moves, *moves_of(turn, mirror))
        rows, (columns, height) = self._rows(moves), moved_size(self.image.size, moves)
        shape = (self.channels, height, columns)
        if columns * height * self.channels > MOST_LIGHT:
            return lambda box, width, height: reduce_rows(rows, shape, box, width, height)
        if (turn, mirror) not in self._lights:
            self._lights.clear()  # one is as much as memory should hold
            self._lights[turn, mirror] = light_of_rows(rows, shape, each)
        light = self._lights[turn, mirror]
        return lambda box, width, height: reduce_light(light, width, height, box)

    def _rows(self, moves: tuple[Image.Transpose, ...]) -> Callable[[slice], Pixels]:
        """A function that reads rows of the moved picture."""
        columns, height = moved_size(self.image.size, moves)

        def rows(some: slice) -> Pixels:
            first, last, _ = some.indices(height)
            result: Pixels = np.empty((last - first, columns, self.channels), np.uint8)
            for top in range(first, last, _BAND):
                bottom = min(last, top + _BAND)
                part = self.convert(self.image.crop(stored_box((0, top, columns, bottom), self.image.size, moves)))
                for move in moves:
                    part = part.transpose(move)
                result[top - first : bottom - first] = np.asarray(part)
            return result

        return rows


def read_pixels(file: MasterFile, key: str, digest: str = "") -> Pixels:
    """A master's pixels in sRGB, upright: (height, width, 3), or 4 with straight alpha if it can be transparent.

    Args:
        digest: what its bytes must still be; "" takes any.

    Raises:
        MasterError: it cannot be decoded to its end.
    """
    return decode(file, key, "srgb", digest).pixels()


def decode(file: MasterFile, key: str, gamut: Gamut, digest: str = "") -> Decoded:
    """Decodes a master.

    Args:
        gamut: "wide" brings a master that has a profile of other RGB colors than sRGB into Display P3.
        digest: what the bytes of the master must still be; "" takes any.

    Raises:
        MasterError: it cannot be decoded to its end.
    """
    with opened(file, key, digest) as image:
        alpha = image.has_transparency_data
        try:
            profile = profile_of(image)
        except ImageCms.PyCMSError:  # told of with the master's facts
            profile = None
        wide = gamut == "wide" and profile is not None and image.mode in ("RGB", "RGBA", "P", "PA")
        image.load()
        convert = _converter(image, profile, alpha=alpha, wide=wide)
        return Decoded(image, convert, 4 if alpha else 3, upright_moves(image), display_p3() if wide else b"")


def _converter(
    image: Image.Image, profile: ImageCms.ImageCmsProfile | None, *, alpha: bool, wide: bool
) -> Callable[[Image.Image], Image.Image]:
    """RGB, or RGBA: relative colorimetric with black point compensation (ICC.1:2022, section 6.2)."""
    if image.mode.startswith(("I", "F")):
        return _eight_bits(image)
    mode = "RGBA" if alpha else "RGB"
    if profile is None:
        return lambda part: part if part.mode == mode else part.convert(mode)
    before = {"P": "RGB", "PA": "RGB", "RGBA": "RGB", "LA": "L"}.get(image.mode, image.mode)
    transform = ImageCms.buildTransform(
        profile,
        ImageCms.ImageCmsProfile(io.BytesIO(display_p3())) if wide else srgb(),
        before,
        "RGB",
        renderingIntent=ImageCms.Intent.RELATIVE_COLORIMETRIC,
        flags=ImageCms.Flags.BLACKPOINTCOMPENSATION,
    )

    def convert(part: Image.Image) -> Image.Image:
        color = ImageCms.applyTransform(part if part.mode == before else part.convert(before), transform)
        if color is None:  # pragma: no cover - only with an in-place conversion
            raise AssertionError
        if alpha:
            color.putalpha(part.convert("RGBA").getchannel("A"))
        return color

    return convert


def _eight_bits(image: Image.Image) -> Callable[[Image.Image], Image.Image]:
    """Grey of 16 bits or of floats as 8 bits; Pillow's own conversion would cut all above 255 to white."""
    _, brightest = image.getextrema()
    most = 65535.0 if isinstance(brightest, (int, float)) and brightest > 1.0 else 1.0

    def convert(part: Image.Image) -> Image.Image:
        levels = np.nan_to_num(np.asarray(part).astype(np.float64))  # where a measurement has no value
        return Image.fromarray(np.rint(np.clip(levels / most, 0.0, 1.0) * 255).astype(np.uint8)).convert("RGB")

    return convert
