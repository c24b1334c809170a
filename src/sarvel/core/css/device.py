"""The device that a length or a media condition is asked about."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Device:
    """A viewport and its pixel density.

    Attributes:
        width: viewport width, CSS px, > 0.
        height: viewport height, CSS px, > 0.
        dpr: device pixels for each CSS px, > 0.
        font: initial font size, CSS px: what `em` and `rem` mean in `sizes` and in media conditions.
    """

    width: float
    height: float
    dpr: float = 1.0
    font: float = 16.0

    def __str__(self) -> str:
        """`390x844@3`: the way devices are written in commands and messages."""
        return f"{self.width:g}x{self.height:g}@{self.dpr:g}"
