"""Headers of images as they are found on sites, and estimates against what a full encode weighs."""

import io
from pathlib import Path

import pytest
from PIL import Image, ImageCms

from sarvel.core.survey.weigh import sample_of
from sarvel.demo import SITE
from sarvel.press.sample import Header, encoded_small, read_header


@pytest.mark.parametrize("name", ["lamp-at-dusk.jpg", "great-lens.jpg", "sea-chart.png", "crest.png"])
@pytest.mark.parametrize("width", [800, 1200])
def test_the_estimate_is_within_a_third_of_a_full_encode(name: str, width: int) -> None:
    file = SITE / "masters" / name
    with Image.open(file) as image:
        small = image.convert("RGBA" if image.has_transparency_data else "RGB").resize(
            (width, round(image.height * width / image.width))
        )
    stream = io.BytesIO()
    small.save(stream, "avif", quality=60)
    assert sample_of(encoded_small(file)).at(width) == pytest.approx(stream.tell(), rel=0.34)


def test_headers(tmp_path: Path) -> None:
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    picture = Image.new("RGB", (30, 20))
    exif = Image.Exif()
    exif[0x0112] = 6
    picture.save(tmp_path / "turned.jpg", exif=exif, icc_profile=profile)
    picture.save(tmp_path / "odd.jpg", icc_profile=b"no profile")
    picture.save(tmp_path / "moves.gif", save_all=True, append_images=[Image.new("RGB", (30, 20), "red")])
    Image.new("RGBA", (3, 2)).save(tmp_path / "clear.png")
    (tmp_path / "drawn.svg").write_text("<svg/>")
    (tmp_path / "none.png").write_bytes(b"nothing")
    told = {file.name: read_header(file) for file in tmp_path.iterdir()}
    assert told == {
        "turned.jpg": Header(20, 30, "JPEG", alpha=False, profile="sRGB built-in"),
        "odd.jpg": Header(30, 20, "JPEG", alpha=False, profile="unnamed"),
        "moves.gif": Header(30, 20, "GIF", alpha=False, frames=2),
        "clear.png": Header(3, 2, "PNG", alpha=True),
        "drawn.svg": Header(format="SVG"),
        "none.png": Header(),
    }
    assert encoded_small(tmp_path / "moves.gif") == encoded_small(tmp_path / "none.png") == []
