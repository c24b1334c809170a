"""The great lens: fine concentric rings of glass in a brass frame. It shows aliasing at once."""

from __future__ import annotations

import numpy as np

from sarvel.core.pixels.resample import Pixels
from scripts.drawings.canvas import Canvas, Field, disc, light_of, line, outline

SUBJECT = (0.025, 0.025, 0.975, 0.975)

_RADIUS = 0.44


def draw(width: int = 3000, height: int = 3000) -> Pixels:
    """The picture, square."""
    canvas = Canvas(width, height, seed=23)
    canvas.gradient([(0, "#131a22"), (0.6, "#1c242c"), (1, "#0c1014")])
    canvas.light *= 1 + 0.2 * canvas.noise(3, 3, octaves=6)[..., None]
    _frame(canvas)
    _glass(canvas)
    _ribs(canvas)
    canvas.grain(0.012)
    return canvas.pixels()


def _frame(canvas: Canvas) -> None:
    far = np.hypot(canvas.x - 0.5, canvas.y - 0.5)
    angle = np.arctan2(canvas.y - 0.5, canvas.x - 0.5)
    turned = 1 + 0.05 * np.sin(far * 1400) + 0.07 * canvas.noise(30, 30, octaves=3)
    shine = (0.42 + 0.36 * np.cos(2 * (angle + 0.9)) + 0.22 * np.cos(5 * angle)) * turned
    brass = light_of("#d9a548") * np.clip(shine, 0.08, 1.3)[..., None]
    canvas.light += (brass - canvas.light) * canvas.cover(disc(0.5, 0.5, _RADIUS + 0.035))[..., None]
    for i in range(36):
        turn = 2 * np.pi * (i + 0.5) / 36
        x, y = 0.5 + (_RADIUS + 0.018) * np.cos(turn), 0.5 + (_RADIUS + 0.018) * np.sin(turn)
        canvas.paint("#4a3413", disc(x, y, 0.0062))
        canvas.paint("#f6d486", disc(x - 0.0012, y - 0.0012, 0.0042), soft=0.003)


def _glass(canvas: Canvas) -> None:
    """Rings whose widths shrink outwards as a zone plate's do, until they are a few pixels wide."""
    x, y = canvas.x - 0.5, canvas.y - 0.5
    far = np.hypot(x, y) / _RADIUS
    phase = 74 * np.clip(far * far - 0.05, 0, None)  # at the rim a ring is 1 / 148 of the radius: 9 px of 3000
    prism = _teeth(phase, 148 * far * canvas.pixel / _RADIUS)
    profile = np.where(far * far < 0.05, 0.9, 0.2 + 0.75 * prism)
    angle = np.arctan2(y, x)
    sweep = 0.55 + 0.3 * np.cos(angle - 2.3) ** 2 + 0.25 * np.exp(-((far / 0.5) ** 2))
    light = profile * sweep
    glass = np.stack([light * 0.72, light * 0.95, light * 0.90], axis=-1) * light_of("#d6f0ea")
    warm = np.exp(-((far / 0.34) ** 2))[..., None] * light_of("#ffd27a") * profile[..., None]
    canvas.light += (0.75 * glass + 0.85 * warm - canvas.light) * canvas.cover(disc(0.5, 0.5, _RADIUS))[..., None]
    canvas.glow("#fff2cc", 0.9 * np.exp(-((far / 0.09) ** 2)))


def _teeth(phase: Field, frequency: Field) -> Field:
    """A sawtooth from 0 to 1 made of those of its harmonics that pixels can hold, so that the master has no moiré itself.

    Args:
        phase: in periods.
        frequency: of the tooth at each point, periods a pixel.
    """
    teeth = np.full(phase.shape, 0.5, np.float32)
    for harmonic in range(1, 6):
        held = np.clip((0.45 - harmonic * frequency) / 0.15, 0, 1)
        teeth -= held * np.sin(2 * np.pi * harmonic * phase) / (np.pi * harmonic)
    return teeth


def _ribs(canvas: Canvas) -> None:
    for i in range(6):
        turn = np.pi * i / 3 + np.pi / 6
        inner, outer = 0.235 * _RADIUS, 1.01 * _RADIUS
        ends = [(0.5 + r * np.cos(turn), 0.5 + r * np.sin(turn)) for r in (inner, outer)]
        canvas.paint("#3c2a10", line(*ends, thick=0.0105))
        canvas.paint("#caa052", line(*ends, thick=0.0062))
    canvas.paint("#5a4218", outline(disc(0.5, 0.5, 0.23 * _RADIUS), 0.014))
    canvas.paint("#e0b864", outline(disc(0.5, 0.5, 0.23 * _RADIUS), 0.008))
