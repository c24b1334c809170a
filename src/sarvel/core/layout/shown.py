"""Shown widths: how many CSS px wide a slot shows its image, and the `sizes` value that tells a browser the same."""

from __future__ import annotations

from dataclasses import dataclass

from sarvel.core.css.device import Device
from sarvel.core.css.lengths import Length
from sarvel.core.layout.bands import Band

_EVERYWHERE = Band("", 0)


@dataclass(frozen=True)
class Shown:
    """A slot's shown width as a function of the viewport.

    Attributes:
        steps: bands, narrowest first, together covering every viewport, each with its length.
    """

    steps: tuple[tuple[Band, Length], ...]

    def on(self, device: Device) -> float:
        """The shown width on this device, CSS px."""
        return next(length for band, length in self.steps if device.width in band).on(device)

    def within(self, part: Band) -> tuple[tuple[Band, Length], ...]:
        """The steps that some viewport of `part` meets, equal neighbours merged into one."""
        merged: list[tuple[Band, Length]] = []
        for band, length in self.steps:
            if band.end <= part.start or band.start >= part.end:
                continue
            if merged and merged[-1][1] == length:
                before = merged.pop()[0]
                merged.append((Band(before.name, before.start, band.end), length))
            else:
                merged.append((band, length))
        return tuple(merged)

    def constant(self, part: Band = _EVERYWHERE) -> float | None:
        """The shown width in CSS px if it is one and the same on every device of `part`, else None."""
        steps = self.within(part)
        if len(steps) != 1:
            return None
        # Four viewports that differ in every way a length can hang on: width, height, the lesser, the greater.
        values = {steps[0][1].on(Device(*viewport)) for viewport in ((320, 480), (480, 320), (997, 613), (613, 997))}
        return values.pop() if len(values) == 1 else None

    def sizes(self, part: Band = _EVERYWHERE, *, lazy: bool = False) -> str:
        """The `sizes` value for viewports of `part`: one condition a band, widest first, the last one bare.

        Args:
            part: the viewports that ever ask for it; conditions that none of them meets are left out.
            lazy: whether the image is lazy, so that browsers that can may measure it themselves (`auto`).
        """
        narrowest, *wider = self.within(part)
        entries = [f"{band.media} {length.css}" for band, length in reversed(wider)]
        return ", ".join([*(["auto"] if lazy else []), *entries, narrowest[1].css])
