"""WebP (RFC 9649), written by libwebp."""

from sarvel.press.codecs.codec import Codec

WEBP = Codec(
    name="webp",
    media_type="image/webp",
    ending="webp",
    alpha=True,
    encoder="webp",
    options={
        "light": {"method": 4, "quality": 70},
        "standard": {"method": 4, "quality": 80},
        "fine": {"method": 4, "quality": 88},
    },
)
