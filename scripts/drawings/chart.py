"""The sea chart: flat colors, thin lines and lettering."""

from __future__ import annotations

import numpy as np

from sarvel.core.pixels.resample import Pixels
from scripts.drawings.canvas import Canvas, Field, Shape, disc, lettering, light_of, line, outline, polygon, rect

SUBJECT = (0.30, 0.22, 0.62, 0.72)

_DEPTHS = (("#8fc4dc", 0.10), ("#b4d9e8", 0.22), ("#d5eaf2", 0.36))  # color, and how far out it reaches
_INK, _LAND, _PAPER = "#2b3a46", "#ecdca9", "#f7f9f5"


def draw(width: int = 3000, height: int = 2100) -> Pixels:
    """The picture, 10:7."""
    canvas = Canvas(width, height, seed=71)
    canvas.gradient([(0, _PAPER), (1, _PAPER)])
    coast = _coast(canvas)
    for color, reach in reversed(_DEPTHS):
        _fill(canvas, coast - reach, color)
        _outline(canvas, coast - reach, "#6f9db3", 0.0016)
    _grid(canvas)
    _soundings(canvas, coast)
    _fill(canvas, coast, _LAND)
    _outline(canvas, coast, _INK, 0.0032)
    _heights(canvas)
    _rose(canvas, 1.16, 0.30)
    _words(canvas)
    _border(canvas)
    return canvas.pixels()


def _coast(canvas: Canvas) -> Field:
    """Distance from the coast, in heights, near enough: negative on land."""
    rough = canvas.noise(3.2, 3.2, octaves=6, rise=0.52)
    x, y = canvas.x, canvas.y
    rock = np.hypot((x - 0.66) / 1.25, y - 0.47) - 0.16
    skerry = np.minimum(np.hypot(x - 0.98, y - 0.66) - 0.035, np.hypot(x - 0.40, y - 0.74) - 0.028)
    mainland = x - 0.13 - 0.09 * np.sin(3.1 * y + 0.6)
    return np.asarray(np.minimum(np.minimum(rock, skerry), mainland) + 0.055 * rough, np.float32)


def _fill(canvas: Canvas, distance: Field, color: str) -> None:
    cover = np.clip(0.5 - distance / (1.6 * canvas.pixel), 0, 1)[..., None]
    canvas.light += (light_of(color) - canvas.light) * cover


def _outline(canvas: Canvas, distance: Field, color: str, thick: float) -> None:
    down, across = np.gradient(distance, canvas.pixel)
    far = np.abs(distance) / np.maximum(np.hypot(down, across), 0.3)
    cover = np.clip(0.5 - (far - thick / 2) / canvas.pixel, 0, 1)[..., None]
    canvas.light += (light_of(color) - canvas.light) * cover.astype(np.float32)


def _grid(canvas: Canvas) -> None:
    for x in np.arange(0.2, canvas.wide, 0.2):
        canvas.paint("#9fb4bf", line((float(x), 0.0), (float(x), 1.0), thick=0.0008))
    for y in np.arange(0.1, 1.0, 0.2):
        canvas.paint("#9fb4bf", line((0.0, float(y)), (canvas.wide, float(y)), thick=0.0008))


def _soundings(canvas: Canvas, coast: Field) -> None:
    random = np.random.default_rng(3)
    for row in range(13):
        for column in range(19):
            x, y = (
                0.09 + 0.0715 * column + random.uniform(-0.02, 0.02),
                0.09 + 0.068 * row + random.uniform(-0.018, 0.018),
            )
            far = float(coast[int(y / canvas.pixel), min(int(x / canvas.pixel), coast.shape[1] - 1)])
            lettered = (
                np.hypot(x - 1.16, y - 0.30) < 0.17
                or (x < 0.68 and y > 0.83)
                or (abs(x - 0.36) < 0.07 and abs(y - 0.36) < 0.12)
            )
            if far > 0.02 and not lettered and x < 1.37 and 0.06 < y < 0.94:
                _figure(canvas, str(max(1, round(95 * far))), (x, y), 0.0165, "#50646f")


def _figure(canvas: Canvas, text: str, place: tuple[float, float], size: float, color: str) -> None:
    """Letters on a small part of the canvas: a chart has hundreds, and the whole is large."""
    rows = slice(max(0, int((place[1] - size) / canvas.pixel)), int((place[1] + size) / canvas.pixel))
    columns = slice(max(0, int((place[0] - 2 * size) / canvas.pixel)), int((place[0] + 2 * size) / canvas.pixel))
    part = Canvas.__new__(Canvas)
    part.pixel, part.light = canvas.pixel, canvas.light[rows, columns]
    lettering(part, text, (place[0] - columns.start * canvas.pixel, place[1] - rows.start * canvas.pixel), size, color)


def _heights(canvas: Canvas) -> None:
    for reach in (0.035, 0.07, 0.10):
        canvas.paint("#c9ad6a", outline(_hill(0.13 - reach), 0.0016))
    canvas.paint("#c0392f", _star(0.70, 0.43, 0.022))
    canvas.paint("#fbe9a0", disc(0.70, 0.43, 0.006))
    canvas.paint("#b05aa0", outline(disc(0.70, 0.43, 0.27), 0.0032))
    canvas.paint(_INK, rect(0.60, 0.50, 0.632, 0.520))


def _hill(radius: float) -> Shape:
    return lambda u, v: np.hypot((u - 0.66) / 1.25, v - 0.47) - radius


def _star(x: float, y: float, radius: float) -> Shape:
    points = [
        (
            x + (radius if i % 2 == 0 else 0.42 * radius) * np.sin(np.pi * i / 5),
            y - (radius if i % 2 == 0 else 0.42 * radius) * np.cos(np.pi * i / 5),
        )
        for i in range(10)
    ]
    return polygon(*points)


def _rose(canvas: Canvas, x: float, y: float) -> None:
    for radius in (0.13, 0.118, 0.062):
        canvas.paint("#b05aa0", outline(disc(x, y, radius), 0.0018))
    for i in range(72):
        turn, inner = np.pi * i / 36, 0.118 if i % 6 else 0.106
        ends = [(x + r * np.sin(turn), y - r * np.cos(turn)) for r in (inner, 0.13)]
        canvas.paint("#b05aa0", line(*ends, thick=0.0013))
    for i in range(8):
        turn, far = np.pi * i / 4, 0.10 if i % 2 == 0 else 0.062
        tip = (x + far * np.sin(turn), y - far * np.cos(turn))
        for side, color in ((-1, "#8d3f80"), (1, "#e6cfe2")):
            flank = (x + 0.018 * np.sin(turn + side * np.pi / 8), y - 0.018 * np.cos(turn + side * np.pi / 8))
            canvas.paint(color, polygon((x, y), tip, flank))
    lettering(canvas, "N", (x, y - 0.15), 0.030, "#8d3f80")


def _words(canvas: Canvas) -> None:
    lettering(canvas, "BRINDLE ROCK", (0.665, 0.535), 0.030, _INK)
    lettering(canvas, "Landing", (0.585, 0.490), 0.019, _INK)
    lettering(canvas, "Light 31 m · 18 M", (0.735, 0.39), 0.0185, "#8d3f80")
    lettering(canvas, "Keeper's Sound", (0.36, 0.36), 0.034, "#4b7f99", turn=62)
    lettering(canvas, "The Anvil", (0.985, 0.762), 0.021, _INK)
    lettering(canvas, "Old Tam", (0.40, 0.795), 0.021, _INK)
    lettering(canvas, "APPROACHES TO BRINDLE ROCK", (0.42, 0.868), 0.030, _INK)
    lettering(canvas, "Soundings in metres · not to be used for navigation", (0.42, 0.912), 0.0175, _INK)


def _border(canvas: Canvas) -> None:
    wide = canvas.wide
    frame, wider = rect(0.03, 0.03, wide - 0.03, 0.97), rect(0.018, 0.018, wide - 0.018, 0.982, 0.012)
    canvas.paint(_PAPER, lambda u, v: -frame(u, v))
    canvas.paint(_INK, outline(frame, 0.0024))
    canvas.paint(_INK, outline(wider, 0.0024))
    for i in range(0, int((wide - 0.06) / 0.05), 2):
        for y in (0.0175, 0.9705):
            canvas.paint(_INK, rect(0.03 + 0.05 * i, y + 0.004, 0.03 + 0.05 * (i + 1), y + 0.0085))
