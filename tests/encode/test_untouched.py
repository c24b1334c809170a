"""A master that is lighter than what is made of it stands for itself, if there is nothing but pixels in it."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from sarvel.core.crop.place import Box
from sarvel.core.edition.encoding import Encoding
from sarvel.core.edition.rendition import Rendition
from sarvel.core.model import Treatment
from sarvel.encode.masters import read_facts
from sarvel.encode.untouched import untouched
from sarvel.encode.work import CropWork, MasterWork

WHOLE = Rendition("a.jpg", "jpeg", "image/jpeg", 40, 30, Encoding())
CROP = CropWork(Box(0, 0, 40, 30), Treatment(), "srgb")


def saved(folder: Path, **more: object) -> Path:
    pixels = np.random.default_rng(1).integers(0, 256, (30, 40, 3), np.uint8)
    Image.fromarray(pixels).save(folder / "a.jpg", quality=30, **more)  # type: ignore[arg-type]
    return folder / "a.jpg"


def work_of(file: Path) -> MasterWork:
    return MasterWork(file.name, file, read_facts(file, file.name).digest, file.parent, (CROP,))


def test_a_light_master_stands_for_itself(tmp_path: Path) -> None:
    file = saved(tmp_path)
    assert untouched(work_of(file), CROP, WHOLE, 10**6) == file.read_bytes()
    assert untouched(work_of(file), CROP, WHOLE, 10) is None, "only if it is lighter"


@pytest.mark.parametrize(
    ("crop", "rendition"),
    [
        (CROP, replace(WHOLE, width=20, height=15)),
        (replace(CROP, box=Box(1, 0, 41, 30)), WHOLE),
        (replace(CROP, treatment=Treatment(grey=True)), WHOLE),
        (CROP, replace(WHOLE, media_type="image/webp")),
    ],
)
def test_another_picture_is_made(tmp_path: Path, crop: CropWork, rendition: Rendition) -> None:
    assert untouched(work_of(saved(tmp_path)), crop, rendition, 10**6) is None


def test_metadata_are_never_published(tmp_path: Path) -> None:
    exif = Image.Exif()
    exif[0x010F] = "A camera"
    for more in ({"exif": exif}, {"comment": b"mine"}, {"icc_profile": b"x" * 200}):
        assert untouched(work_of(saved(tmp_path, **more)), CROP, WHOLE, 10**6) is None
