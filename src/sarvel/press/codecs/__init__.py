"""The formats that can be written: one file each. To add one, write its module and name it here."""

from __future__ import annotations

from sarvel.press.codecs import jxl
from sarvel.press.codecs.avif import AVIF
from sarvel.press.codecs.codec import Codec, Settings
from sarvel.press.codecs.jpeg import JPEG
from sarvel.press.codecs.png import PNG
from sarvel.press.codecs.webp import WEBP

CODECS: dict[str, Codec] = {
    codec.name: codec for codec in (*((jxl.JXL,) if jxl.AVAILABLE else ()), AVIF, WEBP, JPEG, PNG)
}

EXTRAS = ("jxl",)
"""Formats that are there only if the extra of their name is installed."""

__all__ = ["CODECS", "EXTRAS", "Codec", "Settings"]
