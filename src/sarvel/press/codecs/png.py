"""PNG (W3C, third edition): the fallback for pictures with transparency."""

from sarvel.press.codecs.codec import Codec

_LOSSLESS: dict[str, int | bool | str] = {"compress_level": 9}

PNG = Codec(
    name="png",
    media_type="image/png",
    ending="png",
    alpha=True,
    encoder="zlib",
    options={"light": _LOSSLESS, "standard": _LOSSLESS, "fine": _LOSSLESS},
)
