"""Small pictures of renditions."""

import io
from pathlib import Path

import numpy as np
from PIL import Image

from sarvel.encode.thumbs import small


def test_a_light_file_is_held_as_it_is_and_a_heavy_one_made_small(tmp_path: Path) -> None:
    noise = np.random.default_rng(1).integers(0, 256, (600, 900, 4), np.uint8)
    Image.fromarray(noise[:10, :10]).save(tmp_path / "light.png")
    assert small(tmp_path / "light.png", "png") == ((tmp_path / "light.png").read_bytes(), "png")
    Image.fromarray(noise).save(tmp_path / "heavy.png")
    content, format_ = small(tmp_path / "heavy.png", "png")
    with Image.open(io.BytesIO(content)) as made:
        assert (format_, made.size, made.mode) == ("webp", (360, 240), "RGBA")
