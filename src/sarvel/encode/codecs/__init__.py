"""The formats that can be written: one file each. To add one, write its module and name it here."""

from __future__ import annotations

from sarvel.encode.codecs import jxl
from sarvel.encode.codecs.avif import AVIF
from sarvel.encode.codecs.codec import Codec, EncoderSettings
from sarvel.encode.codecs.jpeg import JPEG
from sarvel.encode.codecs.png import PNG
from sarvel.encode.codecs.webp import WEBP

CODECS: dict[str, Codec] = {
    codec.name: codec for codec in (*((jxl.JXL,) if jxl.AVAILABLE else ()), AVIF, WEBP, JPEG, PNG)
}

__all__ = ["CODECS", "Codec", "EncoderSettings"]
