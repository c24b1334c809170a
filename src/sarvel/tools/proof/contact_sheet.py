"""The proof sheet: every master with its subject and its crops over it, and next to it each crop as it will look."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from sarvel.core.crop.place import Box
from sarvel.core.crop.turn import Turn, turned
from sarvel.core.edition.compose import SUBJECT_LOST, Crop
from sarvel.core.facts import MasterFacts
from sarvel.core.model import ONLY_CROP, Slot
from sarvel.core.pixels.resample import Pixels, pixels_from_light, reduce_pixels
from sarvel.encode.decode import Decoded
from sarvel.encode.rungs import rung
from sarvel.encode.work import CropWork
from sarvel.files.reports import png_file

WIDTH, HEIGHT = 1280, 400
"""Size of one panel, px; two of them fill a screen of 1280×800."""

MOST_CROPS = 6
"""So many crops are in one panel; a master with more has several."""

# Colors that people with any color vision tell apart on photographs (Okabe and Ito, "Color Universal Design", 2008).
_COLORS = ("#e69f00", "#56b4e9", "#f0e442", "#cc79a7", "#009e73", "#d55e00")
PAPER, INK, FAINT, WRONG, _CHECKS = "#faf8f4", "#1d2530", "#68727d", "#b3261e", ("#d9d5cd", "#f1eee8")

_MARGIN, _MASTER, _TEXT = 20, (380, 300), 13
_LINES = 3 * 20 + 8  # px below each crop for its label
_NARROWEST = 210  # px that a label needs across


@dataclass(frozen=True)
class Shot:
    """One crop on the sheet.

    Attributes:
        pixels: of the master that it is cropped from, upright.
    """

    slot: Slot
    crop: Crop
    pixels: Pixels

    @property
    def screen(self) -> tuple[float, float]:
        """Its size on a typical screen, CSS px: on the most visited device that meets it."""
        typical = max(self.crop.visits, key=lambda visits: visits.share)
        width = max(1.0, self.slot.shown.on(typical.device))
        return width, width * self.crop.box.height / self.crop.box.width

    @property
    def name(self) -> str:
        """Its name in the plan."""
        return f"{self.slot.name} · {self.crop.rule.name or ONLY_CROP}"

    @property
    def facts(self) -> str:
        """Its ratio, zoom and size in the master."""
        box = self.crop.box
        return f"{ratio_in_words(box.width / box.height)} · zoom {self.crop.rule.zoom:g} · {box.width:.0f} by {box.height:.0f} px"

    @property
    def trouble(self) -> str:
        """The fault to show on it; "" for none."""
        if self.crop.lost > SUBJECT_LOST:
            return f"loses {self.crop.lost:.0%} of the subject"
        if self.crop.soft:
            return f"too small: {self.crop.box.width:.0f} px for {len(self.crop.soft)} devices"
        return ""


def ratio_in_words(ratio: float) -> str:
    """`4:5`, if it is a ratio of small numbers, else `1.43:1`."""
    near = Fraction(ratio).limit_denominator(24)
    if abs(near / ratio - 1) < 1e-3 and near.numerator <= 24:
        return f"{near.numerator}:{near.denominator}"
    return f"{ratio:.2f}:1"


def draw_panels(
    master: MasterFacts, pixels: Pixels, shots: Sequence[Shot], about: str = "", guesses: Sequence[Box] = ()
) -> list[Image.Image]:
    """The panels of one master, each WIDTH by HEIGHT.

    Args:
        pixels: its pixels, upright.
        shots: its crops, in reading order.
        about: what to say of its subject.
        guesses: possible subjects, in fractions, drawn with numbers.
    """
    parts = [shots[i : i + MOST_CROPS] for i in range(0, len(shots), MOST_CROPS)]
    return [
        _panel(master, pixels, part, f", part {i + 1}" if len(parts) > 1 else "", about, guesses)
        for i, part in enumerate(parts)
    ]


def as_png(panels: Sequence[Image.Image]) -> bytes:
    """Panels one below the other, as a file."""
    sheet = Image.new("RGB", (WIDTH, HEIGHT * len(panels)), PAPER)
    for i, panel in enumerate(panels):
        sheet.paste(panel, (0, HEIGHT * i))
    return png_file(sheet)


def _panel(
    master: MasterFacts, pixels: Pixels, shots: Sequence[Shot], part: str, about: str, guesses: Sequence[Box]
) -> Image.Image:
    panel = Image.new("RGB", (WIDTH, HEIGHT), PAPER)
    draw = ImageDraw.Draw(panel)
    draw.line([(0, HEIGHT - 1), (WIDTH, HEIGHT - 1)], fill="#ddd8cf")
    write(draw, (_MARGIN, 14), master.key + part, INK, 17)
    write(draw, (_MARGIN, 36), f"{master.width} by {master.height} px" + (f" · {about}" if about else ""), FAINT)
    _draw_master(panel, master, pixels, shots, guesses)
    left = _MARGIN + _MASTER[0] + 2 * _MARGIN
    for i, (shot, (x, y), (width, height)) in enumerate(_arranged(shots, left)):
        _draw_shot(panel, shot, (x, y), (width, height), _COLORS[i], i + 1)
    return panel


def _draw_master(
    panel: Image.Image, master: MasterFacts, pixels: Pixels, shots: Sequence[Shot], guesses: Sequence[Box]
) -> None:
    scale = min(_MASTER[0] / master.width, _MASTER[1] / master.height)
    width, height = max(1, round(master.width * scale)), max(1, round(master.height * scale))
    at = (_MARGIN, 62)
    light = reduce_pixels(pixels, Box(0, 0, master.width, master.height), width, height)
    _paste(panel, pixels_from_light(light), at)
    draw = ImageDraw.Draw(panel)
    for i, shot in enumerate(shots):
        if shot.crop.source.key == master.key:
            box = in_master(shot.crop, shot.crop.box).times(width, height)
            inset = i % 3  # outlines that coincide are drawn within each other
            edges = [
                at[0] + max(0.0, box.left) + inset,
                at[1] + max(0.0, box.top) + inset,
                at[0] + min(width, box.right) - 1 - inset,
                at[1] + min(height, box.bottom) - 1 - inset,
            ]
            draw.rectangle(edges, outline=_COLORS[i], width=2)
            _badge(draw, (edges[0] + 1 + 22 * i, edges[1] + 1), _COLORS[i], i + 1)
    crop = next((shot.crop for shot in shots if shot.crop.source.key == master.key), None)
    if crop and not guesses:
        for subject in crop.subjects:
            _dashed(draw, in_master(crop, subject).times(width, height), at)
    for i, guess in enumerate(guesses, start=1):
        box = guess.times(width, height)
        _dashed(draw, box, at)
        _tag(draw, (at[0] + box.left, at[1] + box.top, at[0] + box.right, at[1] + box.bottom), i)


def in_master(crop: Crop, box: Box) -> Box:
    """A box of a crop, in turned px, as fractions of the master before turning."""
    treatment = crop.rule.treatment
    width, height = crop.source.width, crop.source.height
    if treatment.rotate in ("left", "right"):
        width, height = height, width
    fractions = Box(box.left / width, box.top / height, box.right / width, box.bottom / height)
    back: Turn = {"left": "right", "right": "left", "half": "half", "": ""}[treatment.rotate]  # type: ignore[assignment]
    return turned(turned(fractions, "", mirror=treatment.mirror), back)


def _arranged(shots: Sequence[Shot], left: int) -> Iterator[tuple[Shot, tuple[int, int], tuple[int, int]]]:
    """Places and sizes of crops on a panel: all at the largest scale at which they fit, none too small to see."""
    room = WIDTH - left - _MARGIN, HEIGHT - 2 * _MARGIN
    for scale in np.geomspace(0.6, 0.03, 60):
        sizes = [(max(24, round(w * scale)), max(24, round(h * scale))) for w, h in (shot.screen for shot in shots)]
        places, bottom = _flow(sizes, room[0])
        if bottom <= room[1] and all(width <= room[0] for width, _ in sizes):
            break
    for shot, (x, y), size in zip(shots, places, sizes, strict=True):
        yield shot, (left + x, _MARGIN + y), size


def _flow(sizes: Sequence[tuple[int, int]], width: int) -> tuple[list[tuple[int, int]], int]:
    """Cells set like words in lines; where each begins, and where the last line ends."""
    places: list[tuple[int, int]] = []
    x = y = line = 0
    for wide, high in sizes:
        cell = max(wide, _NARROWEST)
        if x and x + cell > width:
            x, y, line = 0, y + line, 0
        places.append((x, y))
        x, line = x + cell + _MARGIN, max(line, high + _LINES + 12)
    return places, y + line


def _draw_shot(
    panel: Image.Image, shot: Shot, at: tuple[int, int], size: tuple[int, int], color: str, number: int
) -> None:
    draw = ImageDraw.Draw(panel)
    work = CropWork(shot.crop.box, shot.crop.rule.treatment, "srgb")
    _paste(panel, pixels_from_light(rung(Decoded.of(shot.pixels), work, size)), at)
    right, bottom = at[0] + size[0], at[1] + size[1]
    wrong = shot.trouble
    draw.rectangle([at[0] - 2, at[1] - 2, right + 1, bottom + 1], outline=WRONG if wrong else color, width=2)
    y = bottom + 6
    _badge(draw, (at[0] - 2, y), color, number)
    write(draw, (at[0] + 24, y + 1), shot.name, INK, _TEXT + 1)
    write(draw, (at[0] - 2, y + 20), shot.facts, FAINT)
    if wrong:
        length = draw.textlength(wrong, font=ImageFont.load_default(_TEXT))
        draw.rectangle([at[0] - 2, y + 38, at[0] + 8 + length, y + 57], fill=WRONG)
        write(draw, (at[0] + 3, y + 40), wrong, "#ffffff")


def _paste(panel: Image.Image, pixels: Pixels, at: tuple[int, int]) -> None:
    """A picture on the panel; where it is transparent, checks show through."""
    image = Image.fromarray(np.ascontiguousarray(pixels))
    if image.mode == "RGB":
        panel.paste(image, at)
        return
    rows, columns = np.indices((image.height, image.width)) // 8
    checks = (rows + columns) % 2
    colors = np.array([[int(color[i : i + 2], 16) for i in (1, 3, 5)] for color in _CHECKS], np.uint8)
    panel.paste(Image.fromarray(colors[checks]), at)
    panel.paste(image, at, image)


def _dashed(draw: ImageDraw.ImageDraw, box: Box, at: tuple[int, int]) -> None:
    """The outline of a subject, in black and white dashes that show on any picture; a cross for a point."""
    left, top, right, bottom = box.left + at[0], box.top + at[1], box.right + at[0], box.bottom + at[1]
    if box.width < 4 and box.height < 4:
        left, top, right, bottom = left - 6, top - 6, right + 6, bottom + 6
    for start, end in (
        ((left, top), (right, top)),
        ((right, top), (right, bottom)),
        ((right, bottom), (left, bottom)),
        ((left, bottom), (left, top)),
    ):
        length = max(abs(end[0] - start[0]), abs(end[1] - start[1]), 1)
        draw.line([start, end], fill="#000000", width=2)
        for i in range(0, int(length), 8):
            a, b = i / length, min(1.0, (i + 4) / length)
            ends = [(start[0] + (end[0] - start[0]) * t, start[1] + (end[1] - start[1]) * t) for t in (a, b)]
            draw.line(ends, fill="#ffffff", width=2)


def _tag(draw: ImageDraw.ImageDraw, edges: tuple[float, float, float, float], number: int) -> None:
    """The number of a guess, each in another corner of its box: left below, right above, left above."""
    text = f"guess {number}"
    length = draw.textlength(text, font=ImageFont.load_default(_TEXT)) + 9
    left = edges[2] - length - 2 if number == 2 else edges[0] + 2
    top = edges[3] - 21 if number == 1 else edges[1] + 2
    draw.rectangle([left, top, left + length, top + 18], fill="#000000")
    write(draw, (left + 5, top + 1), text, "#ffffff")


def _badge(draw: ImageDraw.ImageDraw, at: tuple[float, float], color: str, number: int) -> None:
    draw.rectangle([at[0], at[1], at[0] + 18, at[1] + 17], fill=color)
    write(draw, (at[0] + 5, at[1] + 1), str(number), "#000000", _TEXT)


def write(draw: ImageDraw.ImageDraw, at: tuple[float, float], text: str, color: str, size: int = _TEXT) -> None:
    """Writes a line: the left top corner, px, and the size of letters, px."""
    draw.text(at, text, fill=color, font=ImageFont.load_default(size))
