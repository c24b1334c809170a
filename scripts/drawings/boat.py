"""The supply boat: small and low on the left of a wide bright sea."""

from __future__ import annotations

import numpy as np

from sarvel.core.pixels.resample import Pixels
from scripts.drawings.canvas import Canvas, disc, light_of, line, polygon, rect

SUBJECT = (0.135, 0.645, 0.28, 0.81)

_HORIZON = 0.46
_X, _Y, _SIZE = 0.30, 0.80, 0.00115  # where the boat's keel is; the height of one of its own units


def draw(width: int = 4200, height: int = 2800) -> Pixels:
    """The picture, 3:2."""
    canvas = Canvas(width, height, seed=37)
    _sky(canvas)
    _island(canvas)
    _sea(canvas)
    _wake(canvas)
    _boat(canvas)
    _gulls(canvas)
    canvas.grain(0.018)
    return canvas.pixels()


def _sky(canvas: Canvas) -> None:
    canvas.gradient([(0, "#4f8fc0"), (0.3, "#9cc6dd"), (_HORIZON, "#e9f0ea")])
    clouds = canvas.noise(1.5, 4.5, octaves=7, rise=0.55)
    thick = np.clip((clouds + 0.1) * 1.3, 0, 1) * np.clip((_HORIZON - canvas.y) / 0.1, 0, 1)
    shade = np.clip(0.75 + 0.6 * canvas.noise(2.5, 7, octaves=6), 0.3, 1)
    canvas.light += (light_of("#ffffff") * (0.55 + 0.42 * shade)[..., None] - canvas.light) * (0.9 * thick)[..., None]


def _island(canvas: Canvas) -> None:
    rough = canvas.noise(18, 18, octaves=6, rise=0.6)

    def rock(u: np.ndarray, v: np.ndarray) -> np.ndarray:
        top = np.interp(u[0], [1.02, 1.08, 1.16, 1.24, 1.34, 1.42], [0.47, 0.435, 0.42, 0.425, 0.44, 0.47])
        return np.asarray(np.maximum(top[None, :].astype(np.float32) - v, v - 0.47))

    inside = canvas.cover(lambda u, v: rock(u, v) - 0.006 * rough, soft=0.002)[..., None]
    stone = light_of("#74848c") * (1 + 0.25 * rough[..., None])
    canvas.light += (stone - canvas.light) * (0.92 * inside)
    canvas.paint("#eef0ec", polygon((1.176, 0.425), (1.196, 0.425), (1.192, 0.33), (1.18, 0.33)))
    canvas.paint("#bf5a52", polygon((1.1776, 0.385), (1.1944, 0.385), (1.1928, 0.36), (1.1792, 0.36)))
    canvas.paint("#4b5660", rect(1.1765, 0.328, 1.1955, 0.332))
    canvas.paint("#f5e7b0", rect(1.181, 0.313, 1.191, 0.328))
    canvas.paint("#9c4a44", polygon((1.178, 0.314), (1.194, 0.314), (1.186, 0.300)))


def _sea(canvas: Canvas) -> None:
    depth = np.clip((canvas.y - _HORIZON) / (1 - _HORIZON), 0, 1)
    far, near = light_of("#a9cbd2"), light_of("#1c5a70")
    water = far * (1 - depth[..., None]) ** 2.2 + near * (1 - (1 - depth[..., None]) ** 2.2)
    fine = canvas.noise(9, 110, octaves=5, rise=0.6) * np.clip(1 - 0.8 * depth, 0, 1)
    middle = canvas.noise(5, 42, octaves=6, rise=0.6) * np.sqrt(depth)
    swell = canvas.noise(1.6, 12, octaves=5, rise=0.5) * depth
    shade = 1 + 0.22 * fine + 0.34 * middle + 0.30 * swell
    glint = np.clip(middle + 0.5 * swell - 0.62, 0, 1) * 1.4 + np.clip(fine - 0.75, 0, 1) * 0.5
    sea = water * np.clip(shade, 0.2, 2)[..., None] + light_of("#f4fbff") * glint[..., None]
    canvas.light += (sea - canvas.light) * canvas.cover(lambda _, v: _HORIZON - v, soft=0.0015)[..., None]


def _wake(canvas: Canvas) -> None:
    behind = np.clip(_X - 0.075 - canvas.x, 0, None)
    spread = 0.012 + 0.16 * behind
    trail = np.exp(-(((canvas.y - _Y + 0.012 + 0.02 * behind) / spread) ** 2)) * np.exp(-4.5 * behind) * (behind > 0)
    foam = np.clip(0.3 + canvas.noise(24, 60, octaves=5, rise=0.65), 0, 1)
    bow = np.exp(-((np.hypot((canvas.x - _X - 0.085) / 2.6, canvas.y - _Y + 0.006) / 0.012) ** 2))
    white = np.clip(0.85 * trail * foam + 1.1 * bow * (0.4 + foam), 0, 1)
    canvas.light += (light_of("#f6fafa") - canvas.light) * white[..., None]


def _boat(canvas: Canvas) -> None:
    """Drawn in units of its own, bow to the right, keel at 0."""

    def at(x: float, y: float) -> tuple[float, float]:
        return _X + x * _SIZE, _Y - y * _SIZE

    def shape(color: str, *corners: tuple[float, float]) -> None:
        canvas.paint(color, polygon(*(at(x, y) for x, y in corners)))

    shadow = np.exp(-((np.hypot((canvas.x - _X) / 3.2, canvas.y - _Y - 0.012) / 0.026) ** 2))
    canvas.light *= (1 - 0.55 * shadow)[..., None]
    shape("#f2efe6", (-84, 34), (-78, 22), (84, 22), (104, 44), (60, 36))
    shape("#a62e26", (-78, 23), (-70, -4), (66, -4), (88, 23))
    shape("#7d211c", (-74, 8), (-70, -4), (66, -4), (74, 8))
    shape("#24343c", (-78, 25), (-78, 21.5), (87, 21.5), (90, 25))
    shape("#e9e4d6", (-8, 35), (-8, 74), (36, 74), (44, 35))
    shape("#c9c3b4", (-8, 35), (-8, 74), (4, 74), (4, 35))
    shape("#1f3c4a", (10, 54), (10, 68), (21, 68), (21, 54))
    shape("#1f3c4a", (24, 54), (24, 68), (34, 68), (37, 54))
    shape("#2f4a55", (-12, 74), (-12, 79), (40, 79), (40, 74))
    shape("#d98a2b", (-5, 79), (-5, 100), (8, 100), (8, 79))
    shape("#2a2f33", (-5, 93), (-5, 100), (8, 100), (8, 93))
    for color, left in (("#8d6a3e", -62), ("#6f7f4a", -46), ("#9a5a3a", -31)):
        shape(color, (left, 34), (left, 47), (left + 13, 47), (left + 13, 34))
        shape("#3d3226", (left, 40), (left, 41.2), (left + 13, 41.2), (left + 13, 40))
    for start, end, thick in (
        ((22, 79), (22, 132), 2.2),
        ((22, 128), (-66, 52), 0.7),
        ((22, 128), (98, 46), 0.7),
        ((-66, 34), (-66, 60), 1.6),
    ):
        canvas.paint("#3b3a38", line(at(*start), at(*end), thick=thick * _SIZE))
    shape("#c8392f", (23, 131), (23, 119), (43, 125))
    canvas.paint("#e8732c", disc(*at(62, 31), 5.5 * _SIZE))
    canvas.paint("#f2efe6", disc(*at(62, 31), 2.6 * _SIZE))


def _gulls(canvas: Canvas) -> None:
    for x, y, size in ((0.43, 0.56, 0.018), (0.51, 0.60, 0.013), (0.39, 0.50, 0.010), (0.60, 0.53, 0.008)):
        wings = (
            (x - size, y - 0.35 * size),
            (x - 0.45 * size, y - 0.5 * size),
            (x, y),
            (x + 0.5 * size, y - 0.6 * size),
            (x + size, y - 0.3 * size),
        )
        canvas.paint("#39424a", line(*wings, thick=0.13 * size), soft=0.001)
