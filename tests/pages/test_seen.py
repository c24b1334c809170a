"""What addresses lead to, on files."""

from pathlib import Path

import pytest
from PIL import Image

from sarvel.core.check.given import FileSeen
from sarvel.pages.at_hand import Roots
from sarvel.pages.seen import FilesSeen, Looked

WEIGHT = 41  # bytes of the file that is no image


@pytest.fixture
def seen(tmp_path: Path) -> FilesSeen:
    site = tmp_path / "site"
    (site / "Img").mkdir(parents=True)
    (site / "blog").mkdir()
    (site / "pictures").mkdir()
    Image.new("RGB", (30, 20)).save(site / "Img" / "Gull.png")
    (site / "pictures" / "seal.avif").write_bytes(b"-" * WEIGHT)
    return FilesSeen(Roots(site / "blog", site / "pictures", "/made"), Looked())


@pytest.mark.parametrize(
    ("address", "wanted"),
    [
        ("../Img/Gull.png?v=1", (30, 20, "image/png")),
        ("/Img/Gull.png", (30, 20, "image/png")),
        ("../Img/gull.png", FileSeen(real_name="Gull.png")),
        ("../img/gull.png", FileSeen(real_name="Img/Gull.png")),
        ("../Img/Gull.jpg", FileSeen(missing=True, near="Gull.png")),
        ("../Img/Gull", FileSeen(missing=True, near="Gull.png")),
        ("../Img/none.png", FileSeen(missing=True)),
        ("/Img/none.png", FileSeen(missing=True)),
        ("/made/seal.avif", FileSeen(weight=WEIGHT)),
        ("/made/Seal.avif", FileSeen(real_name="seal.avif")),
        ("/else/none.png", None),
        ("/none.png", None),
        ("https://example.com/Img/Gull.png", None),
        ("{{ image }}", None),
        ("", None),
    ],
)
def test_what_an_address_leads_to(
    seen: FilesSeen, address: str, wanted: FileSeen | tuple[int, int, str] | None
) -> None:
    found = seen(address)
    if isinstance(wanted, tuple):
        assert found and (found.width, found.height, found.type) == wanted and found.weight > 0
    else:
        assert found == wanted
