"""Placeholders as CSS: what the property `background` says of the image that has not loaded yet."""

from __future__ import annotations

import base64

from sarvel.core.pixels.placeholder import escaped, outline, soft, tint
from sarvel.core.pixels.resample import Light
from sarvel.encode.codecs import CODECS, EncoderSettings

MOST_SOFT = 400
"""Bytes of a soft preview's URL at most."""

# From the best that commonly fits down to what always does.
_SOFT_TRIES = ((24, 60), (24, 40), (20, 40), (16, 40), (16, 20), (12, 20), (8, 20), (4, 0))


def background_of(kind: str, light: Light) -> str:
    """The value of `background` for a placeholder: a color, and behind it the image if the kind has one.

    Args:
        kind: "tint", "soft" or "outline".
        light: the crop at a small rung, opaque.
    """
    color = tint(light)
    if kind == "tint":
        return color
    url = f"data:image/svg+xml,{escaped(outline(light))}" if kind == "outline" else _soft_url(light)
    return f"{color} url({url}) 50%/cover"


def _soft_url(light: Light) -> str:
    for longest, quality in _SOFT_TRIES:
        content = CODECS["webp"].encode(soft(light, longest), EncoderSettings(quality))
        url = f"data:image/webp;base64,{base64.b64encode(content).decode()}"
        if len(url) <= MOST_SOFT:
            return url
    raise AssertionError(light.shape)  # pragma: no cover - four pixels fit
