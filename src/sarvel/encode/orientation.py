"""Parts of a picture that is turned or mirrored, without turning all of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TypeAlias

from PIL import Image
from PIL.Image import Transpose

from sarvel.core.crop.turn import Turn

Corners: TypeAlias = tuple[int, int, int, int]  # left, top, right, bottom, px

_ORIENTATION = 0x0112  # Exif 2.32, table 4: tag "Orientation"

_UPRIGHT = {
    2: Transpose.FLIP_LEFT_RIGHT,
    3: Transpose.ROTATE_180,
    4: Transpose.FLIP_TOP_BOTTOM,
    5: Transpose.TRANSPOSE,
    6: Transpose.ROTATE_270,
    7: Transpose.TRANSVERSE,
    8: Transpose.ROTATE_90,
}
"""The move that turns a picture upright, by its orientation; the first needs none: Exif 2.32, section 4.6.4."""

TURNS: Mapping[Turn, Sequence[Transpose]] = {
    "": (),
    "left": (Transpose.ROTATE_90,),
    "right": (Transpose.ROTATE_270,),
    "half": (Transpose.ROTATE_180,),
}
"""The turns of a plan."""

# Where a box of the moved picture lies in the one before, whose width is w and height h.
_BEFORE: Mapping[Transpose, Callable[[int, int, int, int, int, int], Corners]] = {
    Transpose.FLIP_LEFT_RIGHT: lambda left, top, right, bottom, w, _: (w - right, top, w - left, bottom),
    Transpose.FLIP_TOP_BOTTOM: lambda left, top, right, bottom, _, h: (left, h - bottom, right, h - top),
    Transpose.ROTATE_180: lambda left, top, right, bottom, w, h: (w - right, h - bottom, w - left, h - top),
    Transpose.TRANSPOSE: lambda left, top, right, bottom, *_: (top, left, bottom, right),
    Transpose.ROTATE_90: lambda left, top, right, bottom, w, _: (w - bottom, left, w - top, right),
    Transpose.ROTATE_270: lambda left, top, right, bottom, _, h: (top, h - right, bottom, h - left),
    Transpose.TRANSVERSE: lambda left, top, right, bottom, w, h: (w - bottom, h - right, w - top, h - left),
}
_ON_ITS_SIDE = (Transpose.TRANSPOSE, Transpose.ROTATE_90, Transpose.ROTATE_270, Transpose.TRANSVERSE)


def upright_moves(image: Image.Image) -> tuple[Transpose, ...]:
    """The moves that turn an image upright, by its metadata."""
    orientation = image.getexif().get(_ORIENTATION)
    return (_UPRIGHT[orientation],) if orientation in _UPRIGHT else ()


def moved_size(size: tuple[int, int], moves: Sequence[Transpose]) -> tuple[int, int]:
    """Width and height of a picture of a size after moves."""
    return size[::-1] if sum(move in _ON_ITS_SIDE for move in moves) % 2 else size


def stored_box(box: Corners, size: tuple[int, int], moves: Sequence[Transpose]) -> Corners:
    """The box of the stored picture that a box of the moved one comes from.

    Args:
        box: of the picture after all moves.
        size: width and height of the stored picture, px.
        moves: in the order in which they are made.
    """
    for count in range(len(moves), 0, -1):
        box = _BEFORE[moves[count - 1]](*box, *moved_size(size, moves[: count - 1]))
    return box
