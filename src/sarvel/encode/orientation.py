"""Parts of a picture that is turned or mirrored, without turning all of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TypeAlias

from PIL import Image
from PIL.Image import Transpose

from sarvel.core.crop.turn import Turn

Corners: TypeAlias = tuple[int, int, int, int]  # left, top, right, bottom, px

_ORIENTATION = 0x0112  # Exif 2.32, table 4: tag "Orientation"

# Formats whose metadata Pillow has read once a file is open, and where it is; looking into all of it takes as long as opening.
_AT_ONCE, _SAY_SO = ("JPEG", "WEBP", "AVIF"), {"exif", "xmp"}

_UPRIGHT: Mapping[int, tuple[Turn, bool]] = {
    2: ("", True),
    3: ("half", False),
    4: ("half", True),
    5: ("right", True),
    6: ("right", False),
    7: ("left", True),
    8: ("left", False),
}
"""The turn that shows a picture upright, and whether it is then mirrored, by orientation: Exif 2.32, section 4.6.4."""

_TURNS: Mapping[Turn, Sequence[Transpose]] = {
    "": (),
    "left": (Transpose.ROTATE_90,),
    "right": (Transpose.ROTATE_270,),
    "half": (Transpose.ROTATE_180,),
}

# Where a box of the moved picture lies in the one before, whose width is w and height h.
_BEFORE: Mapping[Transpose, Callable[[int, int, int, int, int, int], Corners]] = {
    Transpose.FLIP_LEFT_RIGHT: lambda left, top, right, bottom, w, _: (w - right, top, w - left, bottom),
    Transpose.ROTATE_180: lambda left, top, right, bottom, w, h: (w - right, h - bottom, w - left, h - top),
    Transpose.ROTATE_90: lambda left, top, right, bottom, w, _: (w - bottom, left, w - top, right),
    Transpose.ROTATE_270: lambda left, top, right, bottom, _, h: (top, h - right, bottom, h - left),
}
_ON_ITS_SIDE = (Transpose.ROTATE_90, Transpose.ROTATE_270)


def exif_of(image: Image.Image) -> Image.Exif:
    """The Exif metadata of an image; none if that is damaged, which harms no pixel."""
    try:
        return image.getexif()
    except Exception:  # noqa: BLE001 - Pillow raises anything for damaged metadata
        return Image.Exif()


def upright_turn(image: Image.Image) -> tuple[Turn, bool]:
    """The turn that shows an image upright, by its metadata; and whether it is then mirrored left to right."""
    if image.format in _AT_ONCE and not image.info.keys() & _SAY_SO:
        return "", False
    return _UPRIGHT.get(exif_of(image).get(_ORIENTATION, 1), ("", False))


def upright_moves(image: Image.Image) -> tuple[Transpose, ...]:
    """The moves that turn an image upright, by its metadata; none for TIFF, which Pillow turns when it decodes it."""
    return () if image.format == "TIFF" else moves_of(*upright_turn(image))


def moves_of(turn: Turn, mirror: bool) -> tuple[Transpose, ...]:
    """The moves of a turn, and of a mirroring left to right after it."""
    return (*_TURNS[turn], *([Transpose.FLIP_LEFT_RIGHT] if mirror else []))


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
