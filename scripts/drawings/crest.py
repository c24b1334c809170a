"""The crest of the keepers: a shield with a rope, on nothing: the one master with alpha."""

from __future__ import annotations

import numpy as np

from sarvel.core.pixels.light import bytes_from_share
from sarvel.core.pixels.resample import Pixels
from scripts.drawings.canvas import Canvas, Field, Shape, disc, lettering, line, outline, polygon, rect, union

SUBJECT = (0.08, 0.04, 0.92, 0.98)


def draw(width: int = 1200, height: int = 1200) -> Pixels:
    """The picture, square, with alpha."""
    canvas = Canvas(width, height, seed=89)
    canvas.gradient([(0, "#c69a3f"), (1, "#c69a3f")])
    outer, inner = _shield(0.0), _shield(0.045)
    _rope(canvas, outer)
    canvas.paint("#152a4a", inner)
    _rays(canvas, inner)
    _waves(canvas, inner)
    _tower(canvas)
    ribbon = _ribbon()
    _scroll(canvas, ribbon)
    return np.dstack([canvas.pixels(), bytes_from_share(canvas.cover(union(outer, ribbon)))])


def _shield(inset: float) -> Shape:
    def distance(u: Field, v: Field) -> Field:
        sides = np.abs(u - 0.5) - 0.36 + inset
        point = np.hypot(np.abs(u - 0.5) + 0.22, v - 0.42) - 0.58 + inset
        return np.asarray(np.maximum(np.maximum(sides, 0.05 + inset - v), np.where(v > 0.42, point, sides)))

    return distance


def _rope(canvas: Canvas, outer: Shape) -> None:
    far = outer(canvas.x, canvas.y)
    angle = np.arctan2(canvas.y - 0.45, canvas.x - 0.5)
    twist = 0.5 + 0.5 * np.sin(80 * angle + far * 160)
    round_ = np.sqrt(np.clip(1 - ((far + 0.0225) / 0.0225) ** 2, 0, 1))
    canvas.light *= ((0.35 + 0.65 * round_) * (0.6 + 0.5 * twist))[..., None]


def _rays(canvas: Canvas, inner: Shape) -> None:
    angle = np.arctan2(canvas.y - 0.27, canvas.x - 0.5)
    ray = np.clip(3 * np.sin(14 * angle) + 0.5, 0, 1) * (canvas.y < 0.62)
    far = np.hypot(canvas.x - 0.5, canvas.y - 0.27)
    canvas.paint("#f0c65a", inner, opacity=(ray * np.exp(-2.2 * far) * 0.55).astype(np.float32))


def _waves(canvas: Canvas, inner: Shape) -> None:
    for i, color in enumerate(("#2f6f93", "#4f9cc0", "#d9eef5", "#2f6f93", "#4f9cc0")):
        top = 0.62 + 0.05 * i

        def wave(u: Field, v: Field, top: float = top, i: int = i) -> Field:
            crest = top + 0.012 * np.sin(26 * u + 1.7 * i) - v
            return np.asarray(np.maximum(crest, inner(u, v)))

        canvas.paint(color, wave)


def _tower(canvas: Canvas) -> None:
    canvas.paint("#2c3340", polygon((0.36, 0.66), (0.42, 0.60), (0.58, 0.60), (0.64, 0.66)))
    canvas.paint("#f4efe4", polygon((0.445, 0.61), (0.555, 0.61), (0.535, 0.31), (0.465, 0.31)))
    canvas.paint("#bb352d", polygon((0.4512, 0.517), (0.5488, 0.517), (0.5425, 0.422), (0.4575, 0.422)))
    canvas.paint("#cfc7b6", polygon((0.52, 0.61), (0.555, 0.61), (0.535, 0.31), (0.513, 0.31)), opacity=0.5)
    canvas.paint("#20242e", rect(0.445, 0.297, 0.555, 0.314, 0.004))
    canvas.paint("#ffe79c", rect(0.472, 0.235, 0.528, 0.298))
    canvas.paint("#20242e", line((0.5, 0.235), (0.5, 0.298), thick=0.004))
    canvas.paint("#bb352d", polygon((0.462, 0.238), (0.538, 0.238), (0.5, 0.178)))
    canvas.paint("#e7b94f", disc(0.5, 0.172, 0.011))
    canvas.paint("#20242e", rect(0.488, 0.57, 0.512, 0.61, 0.006))


def _ribbon() -> Shape:
    return lambda u, v: np.maximum(np.abs(u - 0.5) - 0.44, np.abs(v - 0.80 - 0.22 * (u - 0.5) ** 2) - 0.052)


def _scroll(canvas: Canvas, ribbon: Shape) -> None:
    canvas.paint("#efe4c8", ribbon)
    canvas.paint("#7c5f2a", outline(lambda u, v: ribbon(u, v) + 0.006, 0.0044))
    lettering(canvas, "BRINDLE ROCK", (0.5, 0.806), 0.074, "#5a2320")
