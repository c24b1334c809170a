"""Headers of images as they are found on sites."""

from pathlib import Path

from PIL import Image, ImageCms

from sarvel.encode.image_headers import Header, read_header


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
        "turned.jpg": Header(20, 30, "JPEG", "image/jpeg", profile="sRGB built-in"),
        "odd.jpg": Header(30, 20, "JPEG", "image/jpeg", profile="unnamed"),
        "moves.gif": Header(30, 20, "GIF", "image/gif", frames=2),
        "clear.png": Header(3, 2, "PNG", "image/png", alpha=True),
        "drawn.svg": Header(format="SVG", media_type="image/svg+xml"),
        "none.png": Header(),
    }
    sizes = {name: (one.width, one.height, one.media_type) for name, one in told.items()}
    quick = {file.name: read_header(file, whole=False) for file in tmp_path.iterdir()}
    assert sizes == {name: (one.width, one.height, one.media_type) for name, one in quick.items()}
