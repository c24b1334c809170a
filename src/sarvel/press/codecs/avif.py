"""AVIF (AOMedia, "AV1 Image File Format"), written by libavif."""

from sarvel.press.codecs.codec import Codec

# One thread: the press uses its cores for other renditions. Speed 6 is the library's own middle between 0 and 10.
_ALIKE: dict[str, int | bool | str] = {"speed": 6, "max_threads": 1, "subsampling": "4:2:0"}

AVIF = Codec(
    name="avif",
    media_type="image/avif",
    ending="avif",
    alpha=True,
    encoder="avif",
    options={
        "light": {**_ALIKE, "quality": 50},
        "standard": {**_ALIKE, "quality": 60},
        "fine": {**_ALIKE, "quality": 72},
    },
)
