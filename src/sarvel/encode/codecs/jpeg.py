"""JPEG (ITU-T T.81), progressive, with tables fitted to each picture."""

from sarvel.encode.codecs.codec import Codec, built_in
from sarvel.encode.codecs.typical import Typical

JPEG = Codec(
    name="jpeg",
    media_type="image/jpeg",
    ending="jpg",
    alpha=False,
    depths=(8,),
    animation=False,
    profile=True,
    longest=65500,  # ITU-T T.81 has 16 bits; libjpeg stops a little before
    version=built_in("libjpeg_turbo"),
    always={"progressive": True, "optimize": True},
    efforts={},
    lossy={"subsampling": "4:2:0"},
    lossless=None,
    drawn={"subsampling": "4:4:4"},
    typical=Typical(71.4, 1.59, (-0.65, 0.78, -0.24)),
)
