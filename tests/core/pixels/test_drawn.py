"""Flat graphics or photograph, by the pixels."""

import io

import numpy as np
import pytest
from PIL import Image, ImageDraw

from sarvel.core.pixels.drawn import looks_drawn, plain_share, rows_to_look_at
from sarvel.core.pixels.resample import Pixels
from sarvel.demo import SITE
from sarvel.encode.decode import read_pixels


def lettering(width: int, height: int) -> Pixels:
    image = Image.new("RGB", (width, height), "white")
    draw = ImageDraw.Draw(image)
    for y in range(10, height - 20, 30):
        draw.text((10, y), "BRINDLE ROCK LIGHT, TO LET", fill="black", font_size=24)
    return np.asarray(image)


def on_white(photo: Pixels) -> Pixels:
    sheet = np.full((1200, 1200, 3), 255, np.uint8)
    sheet[400:800, 400:800] = photo[:400, :400]
    return sheet


def demo(key: str, size: tuple[int, int] = (0, 0), mode: str = "RGB") -> Pixels:
    pixels = read_pixels(SITE / "masters" / key, key)
    if not any(size):
        return pixels
    return np.asarray(Image.fromarray(pixels).resize(size).convert(mode).convert("RGB"))


def recompressed(pixels: Pixels) -> Pixels:
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "png")
    return np.asarray(Image.open(file))


@pytest.mark.parametrize(
    ("pixels", "drawn"),
    [
        (demo("sea-chart.png"), True),
        (demo("crest.png"), True),
        (lettering(700, 400), True),
        (np.full((40, 40, 3), 9, np.uint8), True),
        (np.zeros((1, 1, 4), np.uint8), True),
        (demo("lamp-at-dusk.jpg"), False),
        (demo("supply-boat.jpg"), False),
        (demo("keeper-at-the-rail.jpg"), False),
        (demo("great-lens.jpg"), False),
        (recompressed(demo("keeper-at-the-rail.jpg", (600, 800))), False),
        (demo("keeper-at-the-rail.jpg", (600, 800), "L"), False),
        (on_white(demo("great-lens.jpg", (900, 900))), False),
    ],
    ids=["chart", "crest", "lettering", "one color", "a clear pixel", "lamp", "boat", "keeper", "lens", "reduced", "grey",
         "cut out on white"],
)  # fmt: skip
def test_what_is_drawn(pixels: Pixels, drawn: bool) -> None:
    height, width = pixels.shape[:2]
    assert looks_drawn(np.concatenate([pixels[first:last] for first, last in rows_to_look_at(width, height)])) == drawn


def test_the_color_of_what_is_wholly_transparent_counts_for_nothing() -> None:
    noise = np.random.default_rng(1).integers(0, 256, (60, 60, 4), dtype=np.uint8)
    noise[..., 3] = 0
    assert plain_share(noise) == 1
