"""Each format says what it is, and its files are what it says."""

import io

import numpy as np
import pytest
from PIL import Image

from sarvel.press.codecs import CODECS, Codec

GRADIENT = np.dstack(
    [np.tile(np.linspace(0, 255, 96), (64, 1)), np.tile(np.linspace(255, 0, 64), (96, 1)).T, np.full((64, 96), 90)]
).astype(np.uint8)


@pytest.mark.parametrize("codec", CODECS.values(), ids=CODECS)
def test_files(codec: Codec) -> None:
    pixels = np.dstack([GRADIENT, np.full((64, 96), 255, np.uint8)]) if codec.alpha else GRADIENT
    weights = []
    for finish in ("light", "standard", "fine"):
        content = codec.encode(pixels, finish)
        assert content == codec.encode(pixels, finish)
        weights.append(len(content))
        with Image.open(io.BytesIO(content)) as image:
            assert (image.get_format_mimetype(), image.size) == (codec.media_type, (96, 64))
            assert not {"exif", "icc_profile", "xmp"} & {key for key, value in image.info.items() if value}
            close = np.abs(np.asarray(image.convert("RGB")).astype(int) - GRADIENT)
        assert close.mean() < 4
    assert weights[0] < weights[2] or codec.name == "png"


def test_jpeg_is_progressive() -> None:
    content = CODECS["jpeg"].encode(GRADIENT, "standard")
    assert b"\xff\xc2" in content  # the SOF2 marker, ITU-T T.81 table B.1


def test_a_format_changes_its_settings_with_its_finish() -> None:
    for codec in CODECS.values():
        assert codec.facts().codec.split(" ")[1] != "unknown"
        assert codec.name == "png" or len(set(codec.facts().settings.values())) == 3
