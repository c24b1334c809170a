"""Boxes in a master that is turned or mirrored before it is cropped."""

from __future__ import annotations

from typing import Literal, TypeAlias

from sarvel.core.crop.place import Box

Turn: TypeAlias = Literal["", "left", "right", "half"]


def turned(box: Box, turn: Turn, *, mirror: bool = False) -> Box:
    """The place of a box once its picture is turned, then mirrored left to right.

    Args:
        box: fractions of the picture as it was.
        turn: a quarter to the left (counter-clockwise), a quarter to the right, or half.
        mirror: whether the turned picture is mirrored.
    """
    match turn:
        case "left":
            box = Box(box.top, 1 - box.right, box.bottom, 1 - box.left)
        case "right":
            box = Box(1 - box.bottom, box.left, 1 - box.top, box.right)
        case "half":
            box = Box(1 - box.right, 1 - box.bottom, 1 - box.left, 1 - box.top)
    return Box(1 - box.right, box.top, 1 - box.left, box.bottom) if mirror else box


def turned_size(width: int, height: int, turn: Turn) -> tuple[int, int]:
    """Width and height of a picture once it is turned."""
    return (height, width) if turn in ("left", "right") else (width, height)
