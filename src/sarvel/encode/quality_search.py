"""The search for the encoder's number with which a rendition looks as the same to its master as the plan wants, and no more."""

from __future__ import annotations

import io
import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from PIL import Image

from sarvel.core.model import Effort
from sarvel.core.pixels.likeness import Reference
from sarvel.core.pixels.resample import Pixels
from sarvel.encode.codecs import Codec, EncoderSettings
from sarvel.encode.codecs.codec import HIGHEST, LOWEST, within

CLOSE = 0.4
"""The accepted distance from the target likeness; a step of quality is about 0.15."""

NEXT_CLOSE = 0.7
"""CLOSE for a rung that begins by the next narrower one: its first try mostly does, and then that is its file."""

_MOST_TRIES = 6
_LEAST = 0.01  # that a likeness is taken to lack, whose logarithm is needed


@dataclass(frozen=True)
class Attempt:
    """The result of one try.

    Attributes:
        likeness: reached on the rung that was tried.
        content: the file that it gave there.
        usual: the number that such pictures commonly need.
    """

    quality: int
    likeness: float
    content: bytes
    usual: int


def find_quality(
    pixels: Pixels,
    reference: Reference,
    codec: Codec,
    target: float,
    *,
    drawn: bool,
    effort: Effort = "normal",
    narrower: Attempt | None = None,
    close: float | None = None,
) -> Attempt:
    """The least quality that comes close to the target, by the secant method between tried values, on logarithms.

    Args:
        pixels: the rung to try, ready to be encoded.
        reference: the same, to be compared with.
        codec: a format that can be lossy.
        target: the likeness wanted, 0 to 100.
        drawn: whether it is flat graphics.
        narrower: the result on the next narrower rung: it commonly differs as much from the usual one. None for the first.
        close: the likeness that it may miss the target by; None for CLOSE, or NEXT_CLOSE after a narrower rung.
    """
    tried: dict[int, Attempt] = {}
    quality = usual = codec.expected(target, reference.texture())
    if narrower:
        quality = within(usual + narrower.quality - narrower.usual)
    if close is None:
        close = NEXT_CLOSE if narrower else CLOSE
    while quality not in tried and len(tried) < _MOST_TRIES:
        content = codec.encode(pixels, EncoderSettings(quality, drawn=drawn, effort=effort))
        found = Attempt(quality, reference.likeness(decoded(content, pixels.shape[2])), content, usual)
        if abs(found.likeness - target) <= close:
            return found
        tried[quality] = found
        quality = _next(tried, found, target, codec.typical.power)
    enough = [found for found in tried.values() if found.likeness >= target]
    return (
        min(enough, key=lambda found: found.quality)
        if enough
        else max(tried.values(), key=lambda found: found.likeness)
    )


def quality_within(most: int, settings: EncoderSettings, encode: Callable[[EncoderSettings], bytes]) -> bytes:
    """The file of the highest quality below that of some settings that needs no more bytes, or else that of the lowest.

    Args:
        most: bytes.
        settings: of a file that needs more, with a number.
    """
    low, high = LOWEST, (settings.quality or LOWEST) - 1
    found = encode(replace(settings, quality=LOWEST))
    while low < high:
        middle = (low + high + 1) // 2
        content = encode(replace(settings, quality=middle))
        if len(content) <= most:
            low, found = middle, content
        else:
            high = middle - 1
    return found


def _next(tried: dict[int, Attempt], last: Attempt, target: float, power: float) -> int:
    """The quality where the line through the last two tries meets the target, between those below it and above.

    The line is one of logarithms: of what the number lacks to 100, and of what the likeness lacks.
    """
    others = [found for found in tried.values() if found is not last]
    if others:
        near = min(others, key=lambda found: abs(found.likeness - target))
        x, y = (last_one - near_one for last_one, near_one in zip(_lacks(last), _lacks(near), strict=True))
        power = x / y if y and power / 8 < x / y < power * 8 else power
    x, y = _lacks(last)
    quality = within(100 - math.exp(x + power * (math.log(max(_LEAST, 100 - target)) - y)))
    below = max((one.quality for one in tried.values() if one.likeness < target), default=LOWEST - 1)
    above = min((one.quality for one in tried.values() if one.likeness >= target), default=HIGHEST + 1)
    return min(max(quality, below + 1), above - 1) if above - below > 1 else last.quality


def _lacks(found: Attempt) -> tuple[float, float]:
    """Logarithms of what the number and the likeness of a try lack to 100."""
    return math.log(100 - found.quality), math.log(max(_LEAST, 100 - found.likeness))


def decoded(content: bytes, channels: int) -> Pixels:
    """The pixels of a file: (height, width, 3), or 4 with straight alpha."""
    with Image.open(io.BytesIO(content)) as image:
        return np.asarray(image.convert("RGBA" if channels == 4 else "RGB"))
