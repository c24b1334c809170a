"""Masters of every kind and every badness."""

import io
import struct
import zlib
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray
from PIL import Image, ImageCms, PngImagePlugin

from sarvel.core.pixels.gamut import DISPLAY_P3, SRGB, xyz_of_primaries
from sarvel.core.pixels.light import linear_from_srgb, srgb_from_linear
from sarvel.encode import masters
from sarvel.encode.color_profiles import display_p3, matrix_profile
from sarvel.encode.credit import credit_of
from sarvel.encode.decode import decode, read_pixels
from sarvel.encode.masters import opened, read_facts
from sarvel.errors import MasterError

Values = NDArray[np.float64]
Primaries = tuple[tuple[float, float], ...]

CORNERS = np.array([[[255, 0, 0], [0, 255, 0]], [[0, 0, 255], [255, 255, 0]]], np.uint8)
PICTURE = Image.fromarray(CORNERS.repeat(20, axis=0).repeat(30, axis=1))  # 60×40: red, green, blue, yellow


def saved(folder: Path, name: str, image: Image.Image, **options: object) -> Path:
    file = folder / name
    image.save(file, **options)  # type: ignore[arg-type]
    return file


@pytest.mark.parametrize("orientation", range(1, 9))
@pytest.mark.parametrize("name", ["turned.png", "turned.tif"])
def test_every_turn_comes_out_upright(tmp_path: Path, name: str, orientation: int) -> None:
    """The stored picture is turned so that its Exif turn sets it right (Exif 2.32, table 4)."""
    undo = {
        2: Image.Transpose.FLIP_LEFT_RIGHT,
        3: Image.Transpose.ROTATE_180,
        4: Image.Transpose.FLIP_TOP_BOTTOM,
        5: Image.Transpose.TRANSPOSE,
        6: Image.Transpose.ROTATE_90,  # to be shown turned 90° clockwise, so stored turned 90° the other way
        7: Image.Transpose.TRANSVERSE,
        8: Image.Transpose.ROTATE_270,
    }
    stored = PICTURE.transpose(undo[orientation]) if orientation in undo else PICTURE
    exif = Image.Exif()
    exif[0x0112] = orientation
    file = saved(
        tmp_path, name, stored, **({"exif": exif.tobytes()} if name.endswith("png") else {"tiffinfo": dict(exif)})
    )
    facts = read_facts(file, name)
    assert (facts.width, facts.height) == (60, 40)
    assert np.array_equal(read_pixels(file, name), np.asarray(PICTURE))


@pytest.mark.parametrize(
    ("mode", "name", "alpha"),
    [
        ("RGB", "a.png", False),
        ("RGBA", "a.png", True),
        ("P", "a.png", False),
        ("P", "a.gif", False),
        ("L", "a.png", False),
        ("LA", "a.png", True),
        ("1", "a.png", False),
        ("CMYK", "a.tif", False),
        ("CMYK", "a.jpg", False),
        ("RGB", "Küste, am 100 % \"Abend\".webp", False),
    ],
)  # fmt: skip
def test_every_kind_is_read(tmp_path: Path, mode: str, name: str, alpha: bool) -> None:
    file = saved(tmp_path, name, PICTURE.convert(mode))
    facts = read_facts(file, name)
    pixels = read_pixels(file, name)
    assert (facts.alpha, facts.size) == (alpha, file.stat().st_size)
    assert pixels.shape == (40, 60, 4 if alpha else 3)
    if mode in ("RGB", "RGBA", "P", "CMYK"):
        assert np.abs(pixels[10, 15, :3].astype(int) - (255, 0, 0)).max() < 40  # and a CMYK master is not inverted


def test_16_bits_become_8_by_rounding(tmp_path: Path) -> None:
    levels = np.arange(0, 65536, 257, dtype=np.uint16).reshape(16, 16)
    file = saved(tmp_path, "deep.png", Image.fromarray(levels))
    assert np.array_equal(read_pixels(file, "deep.png")[..., 0].ravel(), np.arange(256))


def test_transparent_palette(tmp_path: Path) -> None:
    file = saved(tmp_path, "p.png", PICTURE.quantize(4), transparency=0)
    assert read_facts(file, "p.png").alpha
    assert 0 in read_pixels(file, "p.png")[..., 3]


ADOBE_RGB = ((0.64, 0.33), (0.21, 0.71), (0.15, 0.06))  # Adobe RGB (1998) Color Image Encoding, section 4.3.1.1
GAMMA = 563 / 256  # section 4.3.4.2
PATCHES = np.array(
    [[r, g, b] for r in (20, 90, 200) for g in (20, 90, 200) for b in (20, 90, 200)] + [[255, 255, 255], [0, 0, 0]],
    float,
)


def adobe_rgb() -> bytes:
    return matrix_profile("Wide test", ADOBE_RGB, struct.pack(">4sIHHi", b"para", 0, 0, 0, round(GAMMA * 65536)))


def as_stored(primaries: Primaries, encode: Callable[[Values], Values]) -> Image.Image:
    """Patches of sRGB as the values that a master in other primaries has for them."""
    light = linear_from_srgb(PATCHES / 255) @ np.linalg.solve(xyz_of_primaries(primaries), xyz_of_primaries(SRGB)).T
    values = np.rint(encode(np.clip(light, 0, 1)) * 255).astype(np.uint8)
    return Image.fromarray(values[None].repeat(8, axis=0).repeat(8, axis=1))


def lab(values: Values) -> Values:
    """CIE 1976 L*a*b* of sRGB values 0 to 255: CIE 15, section 8.2.1."""
    xyz = linear_from_srgb(values / 255) @ xyz_of_primaries(SRGB).T / (xyz_of_primaries(SRGB) @ np.ones(3))
    f = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], axis=-1)


@pytest.mark.parametrize(
    ("primaries", "encode", "profile"),
    [(DISPLAY_P3, srgb_from_linear, display_p3()), (ADOBE_RGB, lambda light: light ** (1 / GAMMA), adobe_rgb())],
    ids=["Display P3", "Adobe RGB"],
)
@pytest.mark.parametrize("ending", ["png", "tif", "webp"])
def test_wide_masters_arrive_in_srgb(
    tmp_path: Path, primaries: Primaries, encode: Callable[[Values], Values], profile: bytes, ending: str
) -> None:
    file = saved(tmp_path, f"wide.{ending}", as_stored(primaries, encode), icc_profile=profile, lossless=True)
    assert read_facts(file, "wide").remarks == ()
    off = lab(read_pixels(file, "wide")[0, ::8].astype(float)) - lab(PATCHES)
    assert np.sqrt((off**2).sum(axis=-1)).max() < 2


def test_wide_masters_stay_wide_where_the_plan_says_so(tmp_path: Path) -> None:
    stored = as_stored(DISPLAY_P3, srgb_from_linear)
    file = saved(tmp_path, "wide.png", stored, icc_profile=display_p3())
    wide = decode(file, "wide.png", "wide")
    assert np.abs(wide.pixels().astype(int) - np.asarray(stored)).max() <= 1 and wide.profile == display_p3()
    plain = saved(tmp_path, "plain.png", stored)
    assert decode(plain, "plain.png", "wide").profile == b""


def test_a_palette_and_transparency_keep_their_profile(tmp_path: Path) -> None:
    stored = as_stored(DISPLAY_P3, srgb_from_linear)
    expected = read_pixels(saved(tmp_path, "a.png", stored, icc_profile=display_p3()), "a.png")
    flat = saved(tmp_path, "p.png", stored.quantize(64), icc_profile=display_p3())
    assert np.abs(read_pixels(flat, "p.png").astype(int) - expected).max() <= 2
    clear = stored.copy()
    clear.putalpha(Image.linear_gradient("L").resize(stored.size))
    pixels = read_pixels(saved(tmp_path, "c.png", clear, icc_profile=display_p3()), "c.png")
    assert (pixels[..., :3] == expected).all() and (pixels[..., 3] == np.asarray(clear)[..., 3]).all()


@pytest.mark.parametrize(
    ("mode", "profile", "words"),
    [
        ("RGB", b"not a profile", "its color profile cannot be used"),
        ("RGB", display_p3()[:200], "its color profile cannot be used"),
        ("L", display_p3(), "(made for RGB), its colors are treated as sRGB"),
        ("RGB", ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes(), ""),
        ("RGB", b"", ""),
    ],
    ids=["garbage", "cut short", "for another kind of color", "sRGB", "none"],
)  # fmt: skip
def test_profiles_that_cannot_be_used_are_told_and_passed_over(
    tmp_path: Path, mode: str, profile: bytes, words: str
) -> None:
    file = saved(tmp_path, "grey.png", Image.new("RGB", (8, 8), (100, 100, 100)).convert(mode), icc_profile=profile)
    remarks = read_facts(file, "grey.png").remarks
    assert (len(remarks) == 1 and words in remarks[0]) if words else not remarks
    assert (read_pixels(file, "grey.png") == 100).all()


@pytest.mark.parametrize(
    ("name", "options", "wanted"),
    [
        ("a.jpg", {}, {}),
        ("a.jpg", {"exif": {0x8298: "K. Tarn", 0x013B: "A. Wick", 0x0110: "Camera 9"}}, {0x8298: "K. Tarn", 0x013B: "A. Wick"}),
        ("a.tif", {"exif": {0x8298: "K. Tarn"}}, {0x8298: "K. Tarn"}),
        ("a.png", {"text": {"Author": "A. Wick", "Copyright": "K. Tarn", "Comment": "x"}}, {0x8298: "K. Tarn", 0x013B: "A. Wick"}),
    ],
    ids=["none", "Exif", "TIFF", "PNG text"],
)  # fmt: skip
def test_credit(tmp_path: Path, name: str, options: dict[str, dict[object, str]], wanted: dict[int, str]) -> None:
    exif = Image.Exif()
    for tag, value in options.get("exif", {}).items():
        exif[int(str(tag))] = value
    text = PngImagePlugin.PngInfo()
    for key, value in options.get("text", {}).items():
        text.add_text(str(key), value)
    file = saved(tmp_path, name, PICTURE, exif=exif, pnginfo=text)
    with opened(file, name) as image:
        kept = Image.Exif()
        kept.load(credit_of(image))
    assert dict(kept) == wanted


@pytest.mark.parametrize(("ending", "drawn"), [("png", True), ("tif", True), ("jpg", False), ("webp", False)])
def test_only_formats_that_keep_every_pixel_can_hold_flat_graphics(tmp_path: Path, ending: str, drawn: bool) -> None:
    assert read_facts(saved(tmp_path, f"a.{ending}", PICTURE), "a").drawn == drawn


def png_header(width: int, height: int) -> bytes:
    chunk = b"IHDR" + struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + chunk + struct.pack(">I", zlib.crc32(chunk))


NO_DATA = struct.pack(">I", 100) + b"IDAT"


def jpeg() -> bytes:
    file = io.BytesIO()
    PICTURE.resize((600, 400)).save(file, "jpeg")
    return file.getvalue()


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "is not an image that can be read; save it as JPEG"),
        (b"hello", "is not an image that can be read"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "is not an image that can be read"),
        (jpeg()[:3000], "is damaged"),
        (jpeg()[:30], "is "),
        (
            png_header(60000, 60000) + NO_DATA,
            "promises 60000×60000 px, over the limit of 100 megapixels for PNG; save it smaller, or as a JPEG of up to",
        ),
        (png_header(40, 40) + NO_DATA, "is damaged"),
    ],
    ids=["empty", "text", "vector", "truncated", "header alone", "header lies", "no data"],
)
def test_bad_masters_are_named_with_their_reason(tmp_path: Path, content: bytes, words: str) -> None:
    file = tmp_path / "bad.jpg"
    file.write_bytes(content)
    with pytest.raises(MasterError) as caught:
        read_facts(file, "sub/bad.jpg")
        read_pixels(file, "sub/bad.jpg")
    assert str(caught.value).startswith("sub/bad.jpg: ") and words in str(caught.value)


def test_a_jpeg_too_large_to_hold_counts_as_half_as_wide_and_high(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """And what is decoded is what every second pixel in both directions would be on average."""
    picture = PICTURE.resize((601, 400), Image.Resampling.BICUBIC)
    file = saved(tmp_path, "large.jpg", picture, quality=95, subsampling="4:4:4")
    whole = read_pixels(file, "large.jpg")[:, :600].reshape(200, 2, 300, 2, 3).mean(axis=(1, 3))
    monkeypatch.setattr(masters, "_MOST_PIXELS_OF_OTHERS", 601 * 400 - 1)
    facts, halved = read_facts(file, "large.jpg"), read_pixels(file, "large.jpg")
    assert (facts.width, facts.height) == halved.shape[1::-1] == (301, 200)
    assert np.abs(halved[:, :300] - whole).mean() < 0.5
    with pytest.raises(MasterError, match=r"601×400 px, over the limit of 0 megapixels for PNG"):
        read_facts(saved(tmp_path, "large.png", picture), "large.png")


def test_missing_and_unreadable(tmp_path: Path) -> None:
    with pytest.raises(MasterError, match=r"none\.jpg: there is no such file in the masters folder"):
        read_facts(tmp_path / "none.jpg", "none.jpg")
    with pytest.raises(MasterError, match="cannot be read"):
        read_facts(tmp_path, "folder.jpg")


def test_a_master_is_left_as_it_was(tmp_path: Path) -> None:
    file = saved(tmp_path, "a.png", PICTURE)
    file.chmod(0o444)
    before = file.read_bytes(), file.stat().st_mtime_ns
    read_facts(file, "a.png")
    read_pixels(file, "a.png")
    assert (file.read_bytes(), file.stat().st_mtime_ns) == before
