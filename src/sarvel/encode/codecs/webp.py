"""WebP (RFC 9649), written by libwebp."""

from sarvel.encode.codecs.codec import Codec, built_in
from sarvel.encode.codecs.typical import Typical

WEBP = Codec(
    name="webp",
    media_type="image/webp",
    ending="webp",
    alpha=True,
    depths=(8,),
    animation=True,
    profile=True,
    longest=16383,  # RFC 9649, section 2.6: 14 bits
    version=built_in("webp"),
    always={},
    efforts={"quick": {"method": 2}, "normal": {"method": 4}, "thorough": {"method": 6}},
    lossy={},
    lossless={"lossless": True, "quality": 75, "method": 5},  # here quality is the effort
    drawn={},  # its lossy files always keep colors at half the size
    typical=Typical(78.4, 2.11, (-0.14, -0.02, 0.14)),
)
