"""What addresses lead to, on files."""

from pathlib import Path

import pytest
from PIL import Image

from sarvel.core.check.context import LinkedFile
from sarvel.pages.read.linked_files import LinkedFiles, Looked
from sarvel.pages.read.project import Project
from sarvel.pages.read.roots import Roots

WEIGHT = 41  # bytes of the file that is no image


def header(file: Path) -> LinkedFile:
    """In the place of what reads headers."""
    if file.suffix == ".avif":
        return LinkedFile(weight=file.stat().st_size)
    with Image.open(file) as image:
        return LinkedFile(*image.size, f"image/{(image.format or '').lower()}", weight=file.stat().st_size)


@pytest.fixture
def seen(tmp_path: Path) -> LinkedFiles:
    site = tmp_path / "site"
    (site / "Img").mkdir(parents=True)
    (site / "blog").mkdir()
    (site / "pictures").mkdir()
    Image.new("RGB", (30, 20)).save(site / "Img" / "Gull.png")
    (site / "Img" / "style.css").write_text("")
    (site / "pictures" / "seal.avif").write_bytes(b"-" * WEIGHT)
    return LinkedFiles(Roots(site / "blog", Project(site, ()), site / "pictures", "/made"), Looked(header))


@pytest.mark.parametrize(
    ("address", "wanted"),
    [
        ("../Img/Gull.png?v=1", (30, 20, "image/png")),
        ("/Img/Gull.png", (30, 20, "image/png")),
        ("../Img/gull.png", LinkedFile(real_name="Gull.png")),
        ("../img/gull.png", LinkedFile(real_name="Img/Gull.png")),
        ("../Img/Gull.jpg", LinkedFile(missing=True, near="Gull.png")),
        ("../Img/Gull", LinkedFile(missing=True, near="Gull.png")),
        ("../Img/none.png", LinkedFile(missing=True)),
        ("../Img/style.png", LinkedFile(missing=True)),  # though style.css is there
        ("/Img/none.png", LinkedFile(missing=True)),
        ("/made/seal.avif", LinkedFile(weight=WEIGHT)),
        ("/made/Seal.avif", LinkedFile(real_name="seal.avif")),
        ("/else/none.png", None),
        ("/none.png", None),
        ("https://example.com/Img/Gull.png", None),
        ("{{ image }}", None),
        ("", None),
    ],
)
def test_what_an_address_leads_to(
    seen: LinkedFiles, address: str, wanted: LinkedFile | tuple[int, int, str] | None
) -> None:
    found = seen(address)
    if isinstance(wanted, tuple):
        assert found and (found.width, found.height, found.type) == wanted and found.weight > 0
    else:
        assert found == wanted


def test_a_base_that_leads_an_address_away_from_its_page(seen: LinkedFiles, tmp_path: Path) -> None:
    site = tmp_path / "site"
    based = LinkedFiles(Roots(site / "Img", Project(site, ()), base="/blog/"), Looked(header))
    assert based("Gull.png") == LinkedFile(missing=True, base="/blog/")
    assert based("/Img/Gull.png") == seen("/Img/Gull.png")
    assert (
        LinkedFiles(Roots(site / "Img", Project(site, ()), base="/elsewhere/"), Looked(header))("Gull.png") is None
    )  # it may be served as that
