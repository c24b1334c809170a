"""A guess at what a picture is about; apart from the guessing, which needs libraries that are slow to load."""

from __future__ import annotations

from dataclasses import dataclass

from sarvel.core.crop.place import Box


@dataclass(frozen=True)
class Found:
    """A guess at a subject.

    Attributes:
        box: in fractions of width and height.
        sure: 0 (a guess like any other) to 1.
    """

    box: Box
    sure: float
