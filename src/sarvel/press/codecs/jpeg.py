"""JPEG (ITU-T T.81), progressive, with tables fitted to each picture."""

from sarvel.press.codecs.codec import Codec

_ALIKE: dict[str, int | bool | str] = {"progressive": True, "optimize": True, "subsampling": "4:2:0"}

JPEG = Codec(
    name="jpeg",
    media_type="image/jpeg",
    ending="jpg",
    alpha=False,
    encoder="libjpeg_turbo",
    options={
        "light": {**_ALIKE, "quality": 74},
        "standard": {**_ALIKE, "quality": 82},
        "fine": {**_ALIKE, "quality": 90},
    },
)
