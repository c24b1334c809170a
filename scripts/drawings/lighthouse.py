"""The lighthouse at dusk: tower well right of the centre, last light on the left."""

from __future__ import annotations

import numpy as np

from sarvel.core.pixels.resample import Pixels
from scripts.drawings.canvas import Canvas, disc, light_of, line, polygon, rect

SUBJECT = (0.685, 0.12, 0.875, 0.755)  # left, top, right, bottom, in fractions: the tower and the cottage

_X = 1.08  # the tower's axis
_HORIZON = 0.63


def draw(width: int = 4800, height: int = 3200) -> Pixels:
    """The picture, 3:2."""
    canvas = Canvas(width, height, seed=11)
    _sky(canvas)
    _sea(canvas)
    _headland(canvas)
    _cottage(canvas)
    _tower(canvas)
    _beams(canvas)
    _foreground(canvas)
    canvas.grain(0.02)
    return canvas.pixels()


def _sky(canvas: Canvas) -> None:
    canvas.gradient(
        [
            (0, "#101d3f"),
            (0.25, "#2f3c6e"),
            (0.42, "#6d5a8c"),
            (0.53, "#c9788a"),
            (0.6, "#f2a56f"),
            (_HORIZON, "#ffd08a"),
        ]
    )
    far = np.hypot((canvas.x - 0.42) / 1.6, (canvas.y - _HORIZON) / 0.45)
    canvas.glow("#ff9a4a", 0.55 * np.exp(-6 * far * far))
    clouds = canvas.noise(1.6, 9, octaves=6, rise=0.55) + 0.35 * canvas.noise(5, 22, octaves=4)
    below = np.clip((canvas.y - 0.02) / 0.5, 0, 1)
    thick = np.clip((clouds - 0.05) * 1.5, 0, 1) * np.clip((_HORIZON - canvas.y) / 0.12, 0, 1)
    lit = light_of("#39406b") * (1 - below[..., None]) + light_of("#f08c74") * below[..., None]
    canvas.light += (np.broadcast_to(lit, canvas.light.shape) - canvas.light) * (0.62 * thick)[..., None]
    random = np.random.default_rng(5)
    for x, y, bright in zip(
        random.uniform(0, 1.5, 90), random.uniform(0, 0.3, 90) ** 1.3, random.uniform(0.2, 0.9, 90), strict=True
    ):
        canvas.paint("#fff4e0", disc(x, y, 0.0007), soft=0.0008, opacity=float(bright * max(0.0, 1 - y / 0.3)))


def _sea(canvas: Canvas) -> None:
    depth = np.clip((canvas.y - _HORIZON) / (1 - _HORIZON), 0, 1)
    water = light_of("#e8a173") * (1 - depth[..., None]) ** 3 + light_of("#16304f") * (1 - (1 - depth[..., None]) ** 3)
    waves = canvas.noise(5, 60, octaves=5, rise=0.62) * (0.25 + 0.75 * depth)
    swell = canvas.noise(2, 24, octaves=4, rise=0.5)
    path = np.exp(-(((canvas.x - 0.42) / (0.10 + 0.35 * depth)) ** 2)) * (1 - depth) ** 0.6
    shade = np.clip(1 + 0.38 * waves + 0.22 * swell, 0.25, 2.2)
    below = canvas.cover(lambda _, v: _HORIZON - v)[..., None]
    sea = water * shade[..., None] + light_of("#ffb066") * (path * np.clip(0.35 + 0.9 * waves, 0, 1.4))[..., None]
    canvas.light += (sea - canvas.light) * below


def _headland(canvas: Canvas) -> None:
    rough = canvas.noise(7, 7, octaves=7, rise=0.55)
    rock = canvas.noise(26, 30, octaves=6, rise=0.62)

    def land(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        top = np.interp(
            u[0], [0.56, 0.66, 0.78, 0.9, 1.02, 1.16, 1.3, 1.5], [0.86, 0.79, 0.765, 0.735, 0.735, 0.74, 0.70, 0.66]
        )
        return np.asarray(top[None, :].astype(np.float32) - v)

    inside = canvas.cover(lambda u, v: land(u, v) - 0.012 * rough * (v > 0.5), soft=0.0015)
    slope = np.clip((canvas.y - 0.72) / 0.3, 0, 1)
    stone = light_of("#54465a") * (1 - slope[..., None]) + light_of("#1c1a2a") * slope[..., None]
    warm = np.clip(1.25 - canvas.x / 1.5, 0.3, 1)[..., None] * light_of("#8a5238") * np.clip(rock, 0, 1)[..., None]
    canvas.light += (stone * np.clip(1 + 0.55 * rock, 0.2, 2)[..., None] + 0.5 * warm - canvas.light) * inside[
        ..., None
    ]
    grass = (
        inside
        * canvas.cover(lambda u, v: v - 0.05 + 0.016 * rough - (land(u, v) + v), soft=0.02)
        * np.clip(0.4 + rock, 0, 1)
    )
    canvas.light += (light_of("#3c4630") - canvas.light) * (0.55 * grass)[..., None]


def _tower(canvas: Canvas) -> None:
    top, bottom, thin, thick = 0.285, 0.745, 0.030, 0.047
    half = thin + (thick - thin) * np.clip((canvas.y - top) / (bottom - top), 0, 1) ** 1.5
    across = np.clip((canvas.x - _X) / half, -1, 1)
    body = canvas.cover(lambda u, v: np.maximum(np.abs(u - _X) - half, np.maximum(top - v, v - bottom)) + 0 * u)
    band = ((canvas.y - top) / (bottom - top) * 5).astype(int) % 2 == 1
    paint = np.where(band[..., None], light_of("#b8322c"), light_of("#f1ece2"))
    plaster = 1 + 0.05 * canvas.noise(60, 60, octaves=4)
    lit = np.clip(0.16 + 0.62 * np.sqrt(1 - across * across) * (0.62 - 0.55 * across), 0.05, 1.2) * plaster
    warm = np.array([1.05, 0.86, 0.78], np.float32)
    canvas.light += (paint * lit[..., None] * warm - canvas.light) * body[..., None]
    for y in (0.37, 0.50, 0.63):
        canvas.paint("#20232f", rect(_X - 0.008, y - 0.014, _X + 0.006, y + 0.014, 0.004))
        canvas.paint("#ffc873", rect(_X - 0.005, y - 0.010, _X + 0.003, y + 0.010, 0.002), opacity=0.8)
    canvas.paint("#20222c", rect(_X - 0.048, 0.272, _X + 0.048, 0.288, 0.003))
    for i in range(11):
        x = _X - 0.046 + 0.0092 * i
        canvas.paint("#15161d", line((x, 0.25), (x, 0.275), thick=0.0014))
    canvas.paint("#15161d", line((_X - 0.047, 0.25), (_X + 0.047, 0.25), thick=0.0026))
    canvas.paint("#2b2c38", rect(_X - 0.026, 0.195, _X + 0.026, 0.272))
    canvas.paint("#ffe7a8", rect(_X - 0.0235, 0.20, _X + 0.0235, 0.262), opacity=0.96)
    for x in (-0.0115, 0.0, 0.0115):
        canvas.paint("#4a3f36", line((_X + x, 0.198), (_X + x, 0.264), thick=0.0016))
    canvas.paint(
        "#8e2420",
        polygon((_X - 0.031, 0.198), (_X + 0.031, 0.198), (_X + 0.016, 0.165), (_X, 0.148), (_X - 0.016, 0.165)),
    )
    canvas.paint(
        "#5e1512", polygon((_X + 0.031, 0.198), (_X + 0.016, 0.165), (_X, 0.148), (_X + 0.006, 0.198)), opacity=0.7
    )
    canvas.paint("#191a22", line((_X, 0.15), (_X, 0.122), thick=0.0022))
    canvas.paint("#191a22", disc(_X, 0.143, 0.006))


def _beams(canvas: Canvas) -> None:
    dx, dy = canvas.x - _X, canvas.y - 0.23
    far = np.hypot(dx, dy)
    canvas.glow("#ffe09a", 0.9 * np.exp(-((far / 0.045) ** 2)) + 0.16 * np.exp(-((far / 0.2) ** 2)))
    haze = 1 + 0.25 * canvas.noise(3, 5, octaves=4)
    for side, drop in ((-1, 0.045), (1, -0.10)):
        along = np.maximum(side * dx, 0)
        spread = 0.011 + 0.062 * along
        beam = np.exp(-(((dy - drop * along) / spread) ** 2)) * np.exp(-1.5 * along) * np.clip(along / 0.03, 0, 1)
        canvas.glow("#ffdf9e", 0.34 * beam * haze)


def _cottage(canvas: Canvas) -> None:
    canvas.paint("#b8aea6", rect(1.15, 0.688, 1.30, 0.752))
    canvas.paint("#7c7277", rect(1.225, 0.688, 1.30, 0.752))
    canvas.paint("#3a2b33", polygon((1.14, 0.692), (1.16, 0.642), (1.29, 0.642), (1.31, 0.692)))
    for x in (1.172, 1.276):
        canvas.paint("#54414a", rect(x - 0.008, 0.618, x + 0.008, 0.655))
    for x in (1.17, 1.196, 1.25, 1.276):
        canvas.paint("#2b2026", rect(x - 0.0095, 0.704, x + 0.0095, 0.730))
        canvas.paint("#ffcb77", rect(x - 0.0075, 0.706, x + 0.0075, 0.728))
        canvas.paint("#6a4a2c", line((x, 0.706), (x, 0.728), thick=0.0014))
    canvas.paint("#4a2520", rect(1.214, 0.706, 1.232, 0.752))
    glow = np.exp(-((np.hypot(canvas.x - 1.223, canvas.y - 0.718) / 0.07) ** 2))
    canvas.glow("#ff9c4d", 0.10 * glow)


def _foreground(canvas: Canvas) -> None:
    rough = canvas.noise(5, 5, octaves=7, rise=0.58)
    rock = canvas.noise(22, 40, octaves=6, rise=0.65)

    def stones(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        top = np.interp(
            u[0], [0, 0.12, 0.3, 0.5, 0.62, 0.9, 1.2, 1.5], [0.87, 0.90, 0.955, 0.965, 0.94, 0.90, 0.88, 0.84]
        )
        return np.asarray(top[None, :].astype(np.float32) - v)

    foam = canvas.cover(lambda u, v: stones(u, v) - 0.03 * rough - 0.022, soft=0.03) * np.clip(0.35 + 0.9 * rock, 0, 1)
    canvas.light += (light_of("#d8c3bd") - canvas.light) * (0.5 * foam)[..., None]
    inside = canvas.cover(lambda u, v: stones(u, v) - 0.03 * rough, soft=0.002)[..., None]
    stone = light_of("#201b28") * np.clip(1 + 0.85 * rock, 0.1, 2.4)[..., None]
    canvas.light += (stone - canvas.light) * inside
