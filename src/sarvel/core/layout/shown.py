"""Shown widths: how many CSS px wide a slot shows its image, and the `sizes` value that tells a browser the same."""

from __future__ import annotations

from dataclasses import dataclass, replace

from sarvel.core.css.device import Device
from sarvel.core.css.lengths import Length
from sarvel.core.css.media import ALWAYS, Media, parse_media
from sarvel.core.css.viewports import EVERY, NONE, Viewports
from sarvel.core.layout.bands import Band

EVERYWHERE = Media("", ALWAYS)
_LOWEST, _WIDEST = 240.0, 100_000.0  # CSS px of a viewport: less than any screen has, and more


@dataclass(frozen=True)
class Step:
    """One entry of a shown width: a condition, and the length where it is the first that holds."""

    media: Media
    length: Length


@dataclass(frozen=True)
class Shown:
    """A slot's shown width as a function of the device.

    Attributes:
        steps: in the order tried, as in `sizes`; the last has no condition.
    """

    steps: tuple[Step, ...]

    @classmethod
    def by_band(cls, lengths: tuple[tuple[Band, Length], ...]) -> Shown:
        """Makes it from one length for each band, narrowest first, which together cover every viewport."""
        return cls(tuple(Step(parse_media(band.media), length) for band, length in reversed(lengths)))

    def on(self, device: Device) -> float:
        """The shown width on this device, CSS px; 0 where no step is for it, as in a plan that is not checked yet."""
        return next((step.length.on(device) for step in self.steps if step.media.matches(device)), 0.0)

    def at_most(self, most: float, part: Viewports = EVERY) -> Shown:
        """The shown width with an upper bound in CSS px, which is written only where some viewport of `part` reaches it."""
        return Shown(tuple(replace(step, length=_bounded(step, most, part)) for step in self.steps))

    def within(self, part: Viewports = EVERY) -> tuple[Step, ...]:
        """The steps that some viewport of `part` may meet; equal neighbours merged, none behind one that always holds."""
        kept: list[Step] = []
        for step in self.steps:
            if not step.media.test.can_hold & part:
                continue
            if kept and kept[-1].length == step.length and _covers(step, kept[-1], part):
                kept.pop()
            if not step.media.test.can_fail & part:
                kept.append(Step(EVERYWHERE, step.length))
                break
            kept.append(step)
        return tuple(kept)

    def constant(self, part: Viewports = EVERY) -> float | None:
        """The shown width in CSS px if it is the same on every device of `part`, else None."""
        steps = self.within(part)
        return steps[0].length.fixed() if len(steps) == 1 else None

    def sizes(self, part: Viewports = EVERY, *, lazy: bool = False) -> str:
        """The `sizes` value for viewports of `part`: one condition an entry, the last one bare.

        Args:
            part: the viewports that ever ask for it; conditions that none of them meets are left out.
            lazy: whether the image is lazy, so that browsers that can may measure it themselves (`auto`).
        """
        entries = [f"{step.media.css} {step.length.css}".strip() for step in self.within(part)]
        return ", ".join([*(["auto"] if lazy else []), *entries])


def _bounded(step: Step, most: float, part: Viewports) -> Length:
    """The length of a step, bounded if it is more than `most` at an end of the ranges of viewports where it may count."""
    spans = (step.media.test.can_hold & part).spans
    widths = (min(max(edge[0], 1.0), _WIDEST) for span in spans for edge in span)
    devices = (Device(width, height) for width in widths for height in (_LOWEST, _WIDEST))
    return step.length.at_most(most) if any(step.length.on(one) > most for one in devices) else step.length


def _covers(later: Step, earlier: Step, part: Viewports) -> bool:
    """Tells whether the later step holds no matter where the earlier one can."""
    return (earlier.media.test.can_hold & later.media.test.can_fail & part) == NONE
