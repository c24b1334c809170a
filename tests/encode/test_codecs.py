"""Each format says what it is, and its files are what it says."""

import io
import struct

import numpy as np
import pytest
from PIL import Image

from sarvel.core.model import EFFORTS
from sarvel.core.pixels.resample import Pixels
from sarvel.encode.codecs import CODECS, Codec, EncoderSettings, png
from sarvel.encode.color_profiles import display_p3

RANDOM = np.random.default_rng(4)
GRADIENT = np.dstack(
    [np.tile(np.linspace(0, 255, 96), (64, 1)), np.tile(np.linspace(255, 0, 64), (96, 1)).T, np.full((64, 96), 90)]
).astype(np.uint8)
OPAQUE = np.dstack([GRADIENT, np.full((64, 96), 255, np.uint8)])
FLAG = (
    np.array([[[200, 10, 10, 255], [0, 0, 0, 0]], [[10, 10, 200, 128], [9, 9, 9, 255]]], np.uint8)
    .repeat(19, 0)
    .repeat(13, 1)
)
NOISE = RANDOM.integers(0, 256, (37, 29, 3), dtype=np.uint8)


def decoded(content: bytes, mode: str) -> Pixels:
    with Image.open(io.BytesIO(content)) as image:
        pixels: Pixels = np.asarray(image.convert(mode))
        return pixels


@pytest.mark.parametrize("codec", CODECS.values(), ids=CODECS)
def test_files(codec: Codec) -> None:
    pixels = OPAQUE if codec.alpha else GRADIENT
    weights = []
    for quality in (40, 70, 95) if codec.lossy is not None else (None,):
        content = codec.encode(pixels, EncoderSettings(quality))
        assert content == codec.encode(pixels, EncoderSettings(quality))
        weights.append(len(content))
        with Image.open(io.BytesIO(content)) as image:
            assert (image.get_format_mimetype(), image.size) == (codec.media_type, (96, 64))
            # Pillow makes up a profile for every JPEG XL file that it opens.
            assert not {"exif", "xmp", *(["icc_profile"] if codec.profile else [])} & {
                key for key, value in image.info.items() if value
            }
        assert np.abs(decoded(content, "RGB").astype(int) - GRADIENT).mean() < 5
    assert weights == sorted(weights)


@pytest.mark.parametrize(
    "codec", [codec for codec in CODECS.values() if codec.lossless is not None], ids=lambda codec: codec.name
)
@pytest.mark.parametrize("pixels", [GRADIENT, FLAG, NOISE], ids=["gradient", "flag", "noise"])
def test_lossless_keeps_every_pixel(codec: Codec, pixels: Pixels) -> None:
    mode = "RGBA" if pixels.shape[2] == 4 else "RGB"
    back = decoded(codec.encode(pixels, EncoderSettings(None, drawn=True)), mode)
    seen = pixels[..., 3:] > 0 if mode == "RGBA" else np.True_
    assert (back * seen == pixels * seen).all()


@pytest.mark.parametrize("codec", [codec for codec in CODECS.values() if codec.profile], ids=lambda codec: codec.name)
def test_profile_and_credit_go_along(codec: Codec) -> None:
    exif = Image.Exif()
    exif[0x8298] = "The keepers of Brindle Rock"
    quality = None if codec.lossy is None else 80
    content = codec.encode(GRADIENT, EncoderSettings(quality, profile=display_p3(), exif=exif.tobytes()))
    with Image.open(io.BytesIO(content)) as image:
        assert image.info["icc_profile"] == display_p3()
        assert dict(image.getexif()) == {0x8298: "The keepers of Brindle Rock"}


def test_lossy_flat_graphics_keep_colors_at_full_size() -> None:
    """A chequerboard of red and blue pixels: halved, its colors would run into one."""
    board = np.zeros((32, 32, 3), np.uint8)
    board[::2, ::2, 0] = board[1::2, 1::2, 0] = 255
    board[::2, 1::2, 2] = board[1::2, ::2, 2] = 255
    for name in ("avif", "jpeg"):
        off = [
            np.abs(
                decoded(CODECS[name].encode(board, EncoderSettings(95, drawn=drawn)), "RGB").astype(int) - board
            ).mean()
            for drawn in (False, True)
        ]
        assert off[0] > 50 and off[1] < 10


def test_jpeg_is_progressive() -> None:
    content = CODECS["jpeg"].encode(GRADIENT, EncoderSettings(80))
    assert b"\xff\xc2" in content  # the SOF2 marker, ITU-T T.81 table B.1


@pytest.mark.parametrize(
    ("pixels", "kind"),
    [
        (FLAG, 3),
        (FLAG[..., :3], 3),
        (NOISE, 2),
        (np.dstack([NOISE, NOISE[..., :1]]), 6),
        (np.arange(1024, dtype=np.uint32).view(np.uint8).reshape(32, 32, 4)[..., [0, 0, 0]], 3),
        (np.repeat(RANDOM.integers(0, 256, (60, 60, 1), dtype=np.uint8), 3, 2), 3),
        (np.dstack([np.repeat(NOISE[..., :1], 3, 2), NOISE[..., 1:2]]), 4),
    ],
    ids=["palette with alpha", "palette", "color", "color with alpha", "few grey", "many grey", "grey with alpha"],
)  # fmt: skip
@pytest.mark.parametrize("interlace", [False, True])
def test_png_takes_the_form_that_holds_all(
    pixels: Pixels, kind: int, interlace: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Color types and interlace method of IHDR: PNG, third edition, section 11.2.1."""
    monkeypatch.setattr(png, "OPTIMISES", False)
    content = CODECS["png"].encode(pixels, EncoderSettings(None, interlace=interlace))
    assert content[25] == kind and content[28] == interlace
    assert (decoded(content, "RGBA" if pixels.shape[2] == 4 else "RGB") == pixels).all()


@pytest.mark.skipif(not png.OPTIMISES, reason="the extra png is not installed")
@pytest.mark.parametrize("interlace", [False, True])
@pytest.mark.parametrize("pixels", [FLAG, NOISE, np.repeat(GRADIENT[..., :1], 3, 2)], ids=["flag", "noise", "grey"])
def test_the_extra_spares_bytes_and_no_pixel(pixels: Pixels, interlace: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    settings = EncoderSettings(None, interlace=interlace, profile=display_p3())
    small = CODECS["png"].encode(pixels, settings)
    told = CODECS["png"].facts().codecs
    monkeypatch.setattr(png, "OPTIMISES", False)
    assert len(small) <= len(CODECS["png"].encode(pixels, settings)) and CODECS["png"].facts().codecs != told
    assert (decoded(small, "RGBA" if pixels.shape[2] == 4 else "RGB") == pixels).all() and small[28] == interlace
    with Image.open(io.BytesIO(small)) as image:
        assert image.info["icc_profile"] == display_p3()


@pytest.mark.parametrize("optimises", [False, png.OPTIMISES])
@pytest.mark.parametrize("size", [(1, 1), (2, 3), (5, 4), (8, 8), (9, 17)])
def test_interlaced_png_of_any_size(size: tuple[int, int], optimises: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(png, "OPTIMISES", optimises)
    pixels = np.random.default_rng(4).integers(0, 256, (*size, 3), dtype=np.uint8)
    content = CODECS["png"].encode(pixels, EncoderSettings(None, interlace=True))
    assert (decoded(content, "RGB") == pixels).all()
    assert struct.unpack(">II", content[16:24]) == (size[1], size[0])


def test_facts_tell_the_version_and_the_settings() -> None:
    for codec in CODECS.values():
        facts = codec.facts()
        for effort in EFFORTS:
            told, options = facts.codecs[effort], {**codec.always, **codec.efforts.get(effort, {})}
            assert "unknown" not in told and all(f"{name}={said}" in told for name, said in options.items())
        assert (facts.lossy, facts.lossless) != (False, False)
