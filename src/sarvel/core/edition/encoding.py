"""How a file is encoded, and how the encoder's number is found."""

from __future__ import annotations

from dataclasses import dataclass

from sarvel.core.model import Effort, Metadata

Size = tuple[int, int]  # width, height in px


@dataclass(frozen=True)
class QualitySearch:
    """An encoder's number that is to be found by trying.

    Attributes:
        key: tells everything that the number depends on; the same key is the same number.
        likeness: what to reach, 0 to 100.
        sizes: the rungs that are tried, narrowest first, up to the one in the middle of the ladder. The narrow ones cost
            little and differ most, because the detail of a wide rung is crowded into them; and a number found on
            one is nearly right for the next.
    """

    key: str
    likeness: float
    sizes: tuple[Size, ...]


@dataclass(frozen=True)
class EncoderNumbers:
    """The encoder's numbers of one crop in one format.

    Attributes:
        points: width of each rung that was tried, px, the number found there, and the likeness that it reaches; the
            narrowest first, the middle rung last.
    """

    points: tuple[tuple[int, int, float], ...]

    def at(self, width: int) -> int:
        """The number for a rung: its own if it was tried, else that of the middle rung."""
        return next((number for tried, number, _ in self.points if tried == width), self.points[-1][1])


@dataclass(frozen=True)
class Encoding:
    """The encoding of a file. Either quality or search is None; both if it is lossless.

    Attributes:
        lossless: whether every pixel is kept.
        search: how the encoder's number is found.
        drawn: whether it is flat graphics, whose colors are not to be kept at half the size.
        interlace: whether it shows roughly before it is whole.
        metadata: the metadata of the master to keep.
    """

    lossless: bool = False
    quality: int | None = None
    search: QualitySearch | None = None
    drawn: bool = False
    interlace: bool = False
    metadata: tuple[Metadata, ...] = ()
    effort: Effort = "normal"
