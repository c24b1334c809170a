"""The search for the encoder's number with which a rendition looks as alike to its master as the plan wants, and no more."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from PIL import Image

from sarvel.core.model import Effort
from sarvel.core.pixels.likeness import Reference
from sarvel.core.pixels.resample import Pixels
from sarvel.press.codecs import Codec, Settings
from sarvel.press.codecs.codec import HIGHEST, LOWEST, within

CLOSE = 0.4
"""The accepted distance from the target likeness; a step of quality is about 0.15."""

NEXT_CLOSE = 0.7
"""CLOSE for a rung that begins with the number of the next narrower one: it mostly does, and then that try is its file."""

_MOST_TRIES = 6


@dataclass(frozen=True)
class Attempt:
    """The result of one try.

    Attributes:
        quality: the encoder's number.
        likeness: what it reaches on the rung that was tried.
        content: the file that it gave there.
    """

    quality: int
    likeness: float
    content: bytes


def find_quality(
    pixels: Pixels,
    reference: Reference,
    codec: Codec,
    target: float,
    *,
    drawn: bool,
    effort: Effort = "normal",
    start: int | None = None,
    close: float = CLOSE,
) -> Attempt:
    """The least quality that comes close to the target, by the secant method between tried values.

    Args:
        pixels: the rung to try, as it is to be encoded.
        reference: the same, to be compared with.
        codec: a format that can be lossy.
        target: the likeness wanted, 0 to 100.
        drawn: whether it is flat graphics.
        effort: how long the encoder tries.
        start: the number to try first; None for what is typical of the format.
        close: the likeness that it may miss the target by.
    """
    _, slope = codec.typical
    tried: dict[int, Attempt] = {}
    quality = codec.expected(target) if start is None else start
    while quality not in tried and len(tried) < _MOST_TRIES:
        content = codec.encode(pixels, Settings(quality, drawn=drawn, effort=effort))
        found = Attempt(quality, reference.likeness(_decoded(content, pixels.shape[2])), content)
        if abs(found.likeness - target) <= close:
            return found
        tried[quality] = found
        quality = _next(tried, found, target, slope)
    enough = [found for found in tried.values() if found.likeness >= target]
    return (
        min(enough, key=lambda found: found.quality)
        if enough
        else max(tried.values(), key=lambda found: found.likeness)
    )


def quality_within(most: int, settings: Settings, encode: Callable[[Settings], bytes]) -> bytes:
    """The file of the highest quality below that of some settings that needs no more bytes, or else that of the lowest.

    Args:
        most: bytes.
        settings: of a file that needs more, with a number.
        encode: makes a file.
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


def _next(tried: dict[int, Attempt], last: Attempt, target: float, slope: float) -> int:
    """The quality where the line through the last two tries meets the target, between those below it and above."""
    others = [found for found in tried.values() if found is not last]
    if others:
        near = min(others, key=lambda found: abs(found.likeness - target))
        rise = (last.likeness - near.likeness) / (last.quality - near.quality)
        slope = rise if rise > slope / 8 else slope
    quality = within(last.quality + (target - last.likeness) / slope)
    below = max((one.quality for one in tried.values() if one.likeness < target), default=LOWEST - 1)
    above = min((one.quality for one in tried.values() if one.likeness >= target), default=HIGHEST + 1)
    return min(max(quality, below + 1), above - 1) if above - below > 1 else last.quality


def _decoded(content: bytes, channels: int) -> Pixels:
    with Image.open(io.BytesIO(content)) as image:
        return np.asarray(image.convert("RGBA" if channels == 4 else "RGB"))
