"""The encoder's numbers that a search came to, over the rungs of a cut."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Numbers:
    """The encoder's numbers of one cut in one format.

    Attributes:
        points: width of each rung that was tried, px, the number found there, and the likeness that it reaches; the
            narrowest first, the middle rung last.
    """

    points: tuple[tuple[int, int, float], ...]

    def at(self, width: int) -> int:
        """The number for a rung: its own, or the middle one's for those that are wider."""
        return next((number for tried, number, _ in self.points if tried == width), self.points[-1][1])
