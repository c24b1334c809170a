"""The index of a proof of many masters: each small, with the page that it is on."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from PIL import Image, ImageDraw, ImageFont

from sarvel.core.amounts import counted
from sarvel.tools.proof.contact_sheet import FAINT, INK, PAPER, WIDTH, WRONG, write

_ACROSS, _MARGIN = 8, 20
_CELL = (WIDTH - 2 * _MARGIN) // _ACROSS
_PICTURE = (_CELL - 10, 100)
_SMALL = 12  # px
_HEIGHT = _PICTURE[1] + 62  # three lines below each
_UNSURE = "#8a5a00"  # on the paper it has a contrast of 5.5, as WCAG 2.2 asks for small text (4.5)


class IndexEntry(NamedTuple):
    """A master in the index.

    Attributes:
        trouble: the problem in a few words, or "".
        is_loss: whether that is a lost subject.
    """

    key: str
    small: Image.Image
    page: int
    trouble: str
    is_loss: bool


def small_of(picture: Image.Image) -> Image.Image:
    """A picture as small as an entry has it."""
    small = picture.copy()
    small.thumbnail(_PICTURE)
    return small


def draw_index(entries: Sequence[IndexEntry]) -> Image.Image:
    """The index as one picture, WIDTH px across."""
    lines = -(-len(entries) // _ACROSS)
    sheet = Image.new("RGB", (WIDTH, 2 * _MARGIN + 30 + lines * _HEIGHT), PAPER)
    draw = ImageDraw.Draw(sheet)
    look = sum(bool(entry.trouble) for entry in entries)
    head = f"{counted(len(entries), 'master')} on {counted(entries[-1].page if entries else 0, 'page')}" + (
        f", the first {look} need a look" if look else ""
    )
    write(draw, (_MARGIN, _MARGIN - 4), head, INK, 17)
    for i, entry in enumerate(entries):
        x, y = _MARGIN + i % _ACROSS * _CELL, _MARGIN + 30 + i // _ACROSS * _HEIGHT
        sheet.paste(entry.small, (x, y + _PICTURE[1] - entry.small.height))
        write(draw, (x, y + _PICTURE[1] + 4), _fitted(draw, entry.key), INK, _SMALL)
        write(draw, (x, y + _PICTURE[1] + 20), f"page {entry.page}", FAINT, _SMALL)
        if entry.trouble:
            write(draw, (x, y + _PICTURE[1] + 36), entry.trouble, WRONG if entry.is_loss else _UNSURE, _SMALL)
    return sheet


def _fitted(draw: ImageDraw.ImageDraw, text: str) -> str:
    """A name as wide as a cell: its end says most."""
    font = ImageFont.load_default(_SMALL)
    if draw.textlength(text, font=font) <= _PICTURE[0]:
        return text
    while text and draw.textlength(f"…{text}", font=font) > _PICTURE[0]:
        text = text[1:]
    return f"…{text}"
