"""AVIF (AOMedia, "AV1 Image File Format"), written by libavif.

Pillow hands pixels over as YUV in 8 bits, so that even at quality 100 a value may be off by 3 of 255: not lossless.
"""

from sarvel.encode.codecs.codec import Codec, built_in
from sarvel.encode.codecs.typical import Typical

AVIF = Codec(
    name="avif",
    media_type="image/avif",
    ending="avif",
    alpha=True,
    depths=(8, 10, 12),
    animation=True,
    profile=True,
    longest=32768,  # libavif's limit for anyone who decodes, and so that of browsers
    version=built_in("avif"),
    always={"max_threads": 1},  # the press uses its cores for other renditions
    efforts={"quick": {"speed": 9}, "normal": {"speed": 6}, "thorough": {"speed": 4}},
    lossy={"subsampling": "4:2:0"},
    lossless=None,
    drawn={"subsampling": "4:4:4"},
    typical=Typical(57.1, 0.87, (-0.36, 0.35, -0.12)),
)
