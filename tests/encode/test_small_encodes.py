"""Estimates against what a full encode weighs."""

import io
from pathlib import Path

import pytest
from PIL import Image

from sarvel.core.survey.estimate import sample_of
from sarvel.demo import SITE
from sarvel.encode.small_encodes import encoded_small


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


def test_what_moves_or_cannot_be_read_has_no_sample(tmp_path: Path) -> None:
    Image.new("RGB", (30, 20)).save(
        tmp_path / "moves.gif", save_all=True, append_images=[Image.new("RGB", (30, 20), "red")]
    )
    (tmp_path / "none.png").write_bytes(b"nothing")
    assert encoded_small(tmp_path / "moves.gif") == encoded_small(tmp_path / "none.png") == []
