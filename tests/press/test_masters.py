"""Masters of every kind and every badness."""

import io
import struct
import zlib
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageCms

from sarvel.errors import MasterError
from sarvel.press.decode import read_pixels
from sarvel.press.masters import MOST_PIXELS, read_facts

CORNERS = np.array([[[255, 0, 0], [0, 255, 0]], [[0, 0, 255], [255, 255, 0]]], np.uint8)
PICTURE = Image.fromarray(CORNERS.repeat(20, axis=0).repeat(30, axis=1))  # 60×40: red, green, blue, yellow


def saved(folder: Path, name: str, image: Image.Image, **options: object) -> Path:
    file = folder / name
    image.save(file, **options)  # type: ignore[arg-type]
    return file


@pytest.mark.parametrize("orientation", range(1, 9))
def test_every_turn_comes_out_upright(tmp_path: Path, orientation: int) -> None:
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
    file = saved(tmp_path, "turned.png", stored, exif=exif.tobytes())
    facts = read_facts(file, "turned.png")
    assert (facts.width, facts.height) == (60, 40)
    assert np.array_equal(read_pixels(file, "turned.png"), np.asarray(PICTURE))


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


def test_an_embedded_profile_is_applied_and_a_broken_one_passed_over(tmp_path: Path) -> None:
    grey = Image.new("RGB", (8, 8), (100, 100, 100))
    lab = saved(
        tmp_path, "plain.png", grey, icc_profile=ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    )
    assert (read_pixels(lab, "plain.png") == 100).all()
    broken = saved(tmp_path, "broken.png", grey, icc_profile=b"not a profile")
    assert (read_pixels(broken, "broken.png") == 100).all()


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
            f"promises 60000×60000 px, over the limit of {MOST_PIXELS // 10**6} megapixels",
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
