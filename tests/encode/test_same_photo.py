"""One photograph in several files, and others that are like it."""

from pathlib import Path

import pytest
from PIL import Image

from sarvel.demo import SITE
from sarvel.encode.same_photo import glance, same_photo

MASTERS = sorted((SITE / "masters").iterdir())


@pytest.mark.parametrize("master", MASTERS, ids=lambda file: file.stem)
def test_sizes_formats_and_qualities_are_one_photograph(master: Path, tmp_path: Path) -> None:
    with Image.open(master) as image:
        small = image.convert("RGB").resize((240, round(240 * image.height / image.width)))
        beside = image.convert("RGB").crop((image.width // 20, 0, image.width, image.height))
    own = glance(master)
    assert own is not None
    for ending in (".jpg", ".webp", ".png"):
        small.save(tmp_path / f"small{ending}", quality=30)
        copy = glance(tmp_path / f"small{ending}")
        assert copy is not None and same_photo(own, copy)
    beside.save(tmp_path / "beside.png")
    other = glance(tmp_path / "beside.png")
    assert other is not None and not same_photo(own, other)


def test_other_photographs_and_other_files(tmp_path: Path) -> None:
    glances = [one for file in MASTERS if (one := glance(file))]
    assert len(glances) == len(MASTERS) and not any(
        same_photo(one, other) for one in glances for other in glances if one is not other
    )
    (tmp_path / "a.jpg").write_text("no image")
    Image.new("RGB", (90, 60), "#335577").save(tmp_path / "plain.png")
    assert glance(tmp_path / "a.jpg") is None and glance(tmp_path / "plain.png") is None
