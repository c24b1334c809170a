"""The keeper at the rail: an upright picture, seen from behind, looking out to sea in the morning."""

from __future__ import annotations

import numpy as np

from sarvel.core.pixels.resample import Pixels
from scripts.drawings.canvas import Canvas, Shape, disc, light_of, line, polygon, rect, union

SUBJECT = (0.33, 0.22, 0.75, 0.66)

_X = 0.405  # the keeper's spine
_HORIZON = 0.50


def draw(width: int = 2400, height: int = 3200) -> Pixels:
    """The picture, 3:4."""
    canvas = Canvas(width, height, seed=53)
    _sky(canvas)
    _sea(canvas)
    _lantern(canvas)
    _rail(canvas)
    _keeper(canvas)
    _deck(canvas)
    canvas.grain(0.022)
    return canvas.pixels()


def _sky(canvas: Canvas) -> None:
    canvas.gradient([(0, "#6f9fc4"), (0.25, "#a9c8d8"), (0.42, "#f0dcc0"), (_HORIZON, "#ffe3b0")])
    sun = np.hypot(canvas.x - 0.62, canvas.y - 0.43)
    canvas.glow("#ffd08a", 0.8 * np.exp(-((sun / 0.14) ** 2)) + 1.3 * np.exp(-((sun / 0.03) ** 2)))
    clouds = canvas.noise(2, 9, octaves=7, rise=0.55)
    thick = np.clip(clouds * 1.6 - 0.1, 0, 1) * np.clip((_HORIZON - canvas.y) / 0.12, 0, 1)
    canvas.light += (light_of("#fff1e2") - canvas.light) * (0.65 * thick)[..., None]


def _sea(canvas: Canvas) -> None:
    depth = np.clip((canvas.y - _HORIZON) / (1 - _HORIZON), 0, 1)
    water = light_of("#d9c9a6") * (1 - depth[..., None]) ** 3 + light_of("#1d5166") * (1 - (1 - depth[..., None]) ** 3)
    waves = canvas.noise(12, 130, octaves=5, rise=0.6)
    swell = canvas.noise(4, 34, octaves=5, rise=0.55)
    path = np.exp(-(((canvas.x - 0.62) / (0.03 + 0.22 * depth)) ** 2)) * np.exp(-2.2 * depth)
    sea = water * np.clip(1 + 0.26 * waves + 0.26 * swell, 0.2, 2)[..., None]
    sea += light_of("#ffe2a4") * (path * np.clip(0.3 + waves, 0, 1.3))[..., None]
    canvas.light += (sea - canvas.light) * canvas.cover(lambda _, v: _HORIZON - v, soft=0.001)[..., None]


def _lantern(canvas: Canvas) -> None:
    """The edge of the lantern room on the left: glass between iron bars, the morning in it."""
    glass = canvas.cover(rect(-0.1, 0.06, 0.155, 1.1))
    shine = np.clip(0.5 + 0.5 * np.sin(26 * (canvas.x + 0.35 * canvas.y)) + 0.25 * canvas.noise(4, 4, octaves=4), 0, 1)
    pane = (
        light_of("#31505c")
        + light_of("#f3dcae") * (0.55 * shine * np.exp(-(((canvas.y - 0.42) / 0.32) ** 2)))[..., None]
    )
    canvas.light += (pane - canvas.light) * (0.93 * glass)[..., None]
    for x in (0.035, 0.155):
        canvas.paint("#23282c", line((x, 0.05), (x, 1.05), thick=0.015))
        canvas.paint("#5c666a", line((x + 0.004, 0.05), (x + 0.004, 1.05), thick=0.0025), soft=0.002)
    for y in (0.30, 0.58, 0.86):
        canvas.paint("#23282c", line((-0.1, y), (0.155, y - 0.012), thick=0.011))
    canvas.paint("#7d2a24", polygon((-0.1, -0.1), (-0.1, 0.075), (0.205, 0.062), (0.185, -0.1)))
    canvas.paint("#4d1714", polygon((-0.1, 0.055), (-0.1, 0.078), (0.207, 0.065), (0.204, 0.045)))


def _rail(canvas: Canvas) -> None:
    for x in np.arange(0.19, 0.8, 0.047):
        canvas.paint("#2b3136", line((float(x), 0.62), (float(x), 0.93), thick=0.0075))
        canvas.paint("#7d8b90", line((float(x) + 0.002, 0.62), (float(x) + 0.002, 0.93), thick=0.0016), soft=0.001)
    for y, thick in ((0.615, 0.021), (0.775, 0.010)):
        canvas.paint("#262c30", line((0.155, y), (0.85, y + 0.004), thick=thick))
        canvas.paint(
            "#9aa7a8", line((0.155, y - thick * 0.28), (0.85, y + 0.004 - thick * 0.28), thick=thick * 0.18), soft=0.002
        )


def _keeper(canvas: Canvas) -> None:
    cloth = canvas.noise(90, 90, octaves=4, rise=0.7)
    fold = canvas.noise(26, 8, octaves=5, rise=0.6)
    _clad(
        canvas,
        union(
            line((_X - 0.035, 0.78), (_X - 0.044, 0.96), thick=0.066),
            line((_X + 0.037, 0.78), (_X + 0.044, 0.96), thick=0.066),
        ),
        "#2c2f36",
        cloth,
        fold,
    )
    canvas.paint(
        "#17181b",
        union(rect(_X - 0.083, 0.935, _X - 0.006, 0.972, 0.016), rect(_X + 0.006, 0.935, _X + 0.083, 0.972, 0.016)),
    )
    arms = union(
        line((_X - 0.083, 0.435), (_X - 0.122, 0.53), (_X - 0.096, 0.60), thick=0.060),
        line((_X + 0.083, 0.435), (_X + 0.122, 0.53), (_X + 0.096, 0.60), thick=0.060),
        blend=0.01,
    )
    coat = polygon(
        (_X - 0.066, 0.39),
        (_X + 0.066, 0.39),
        (_X + 0.094, 0.46),
        (_X + 0.086, 0.62),
        (_X + 0.104, 0.83),
        (_X - 0.104, 0.83),
        (_X - 0.086, 0.62),
        (_X - 0.094, 0.46),
    )
    _clad(canvas, union(arms, coat, blend=0.03), "#26405f", cloth, fold)
    canvas.paint("#131f30", line((_X, 0.56), (_X + 0.004, 0.82), thick=0.003), soft=0.003)
    canvas.paint("#131f30", line((_X - 0.086, 0.605), (_X + 0.086, 0.605), thick=0.012), soft=0.002)
    for side in (-1, 1):
        canvas.paint("#c98f6c", disc(_X + side * 0.094, 0.608, 0.019), soft=0.002)
        canvas.paint("#e0b45a", disc(_X + side * 0.03, 0.603, 0.0055))
    _clad(canvas, line((_X - 0.036, 0.383), (_X + 0.036, 0.383), thick=0.05), "#b23a30", cloth, fold)
    _clad(canvas, disc(_X, 0.322, 0.047), "#c08a66", cloth, fold)
    for side in (-1, 1):
        canvas.paint("#b57c5a", disc(_X + side * 0.047, 0.325, 0.010), soft=0.002)
    _clad(
        canvas,
        polygon((_X - 0.047, 0.312), (_X + 0.047, 0.312), (_X + 0.041, 0.352), (_X - 0.041, 0.352)),
        "#6e5a48",
        cloth,
        fold,
    )
    _clad(
        canvas,
        union(
            rect(_X - 0.052, 0.272, _X + 0.052, 0.316, 0.012),
            rect(_X - 0.057, 0.244, _X + 0.057, 0.286, 0.02),
            blend=0.015,
        ),
        "#1b2634",
        cloth,
        fold,
    )
    canvas.paint("#c9a24a", line((_X - 0.051, 0.303), (_X + 0.051, 0.303), thick=0.004))


def _clad(canvas: Canvas, shape: Shape, color: str, cloth: np.ndarray, fold: np.ndarray) -> None:
    """A part of the keeper: lit from the right, with a bright rim where the sun comes past, and a weave."""
    inside = canvas.cover(shape, soft=0.0015)
    side = np.clip(0.62 + 3.4 * (canvas.x - _X), 0.25, 1.25)
    rim = np.exp(-((shape(canvas.x, canvas.y) / 0.006) ** 2)) * np.clip((canvas.x - _X) / 0.05, 0, 1)
    shade = side * (1 + 0.10 * cloth + 0.22 * fold)
    lit = light_of(color) * shade[..., None] + light_of("#ffcf90") * (0.55 * rim)[..., None]
    canvas.light += (lit - canvas.light) * inside[..., None]


def _deck(canvas: Canvas) -> None:
    rust = canvas.noise(20, 50, octaves=6, rise=0.6)
    plate = light_of("#4d5557") * (1 + 0.35 * rust)[..., None]
    canvas.light += (plate - canvas.light) * canvas.cover(lambda u, v: 0.968 - 0.01 * u - v)[..., None]
    canvas.paint("#1d2225", line((-0.1, 0.969), (0.9, 0.960), thick=0.004))
