"""The fit of a picked file to the width at which it is shown."""

from __future__ import annotations

from dataclasses import dataclass

from sarvel.core.css.device import Device
from sarvel.core.html.source_selection import Pick
from sarvel.core.layout.ladder import demand

# Half a percent of the width is less than a pixel of any phone, and what rounding to whole pixels takes.
_ROUNDING = 0.005

# Up to a twentieth wider than needed no one calls a waste; ladders cannot fit every device.
_AMPLE = 0.05


@dataclass(frozen=True)
class Fit:
    """A picked file against what its device needs.

    Attributes:
        shown: how wide it is shown, CSS px; None if unknown.
        needed: px across that the device needs; None where `shown` is.
        width: px across of the file; None if unknown.
        share: its width divided by the needed one: 1 is exact, 0.8 soft, 2 twice as wide; None if unknown.
    """

    shown: float | None
    needed: int | None
    width: float | None
    share: float | None

    @property
    def soft(self) -> bool:
        """Tells whether it has too few pixels."""
        return self.share is not None and self.share < 1 - _ROUNDING

    def __str__(self) -> str:
        """`sharp`, `soft by 20%`, `35% too wide`."""
        if self.share is None:
            return "unknown"
        if self.soft:
            return f"soft by {1 - self.share:.0%}"
        return f"{self.share - 1:.0%} too wide" if self.share > 1 + _AMPLE else "sharp"


def fit(pick: Pick, device: Device, *, shown: float | None, width: int | None, densest: float | None) -> Fit:
    """Works out how well a pick fits.

    Args:
        shown: how wide the image is shown, CSS px, where that is known from elsewhere than `sizes`.
        width: px across of the file, where it is at hand.
        densest: density beyond which the page means to serve no sharper file; None means every density.
    """
    choice = pick.choices[pick.chosen] if pick.chosen is not None else None
    if choice is None:
        return Fit(shown, None, None, None)
    has = float(width) if width is not None else choice.width
    place = pick.shown if pick.shown is not None else shown
    if place is None and has is not None and choice.density:
        place = has / choice.density  # nothing but its density states how large it is shown: then at its own size
    if place is None or not place:
        return Fit(place, None, has, None)
    if has is None:
        has = choice.density * place
    needed = demand(place, device.dpr, [densest or device.dpr])
    return Fit(place, needed, has, has / needed)
