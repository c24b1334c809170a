"""Reading of `shown` and `crops`, in all their forms, into what the core computes with."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any

from sarvel.core.crop.place import CENTRE
from sarvel.core.css.device import Device
from sarvel.core.css.lengths import Length, LengthError, parse_length
from sarvel.core.css.media import Media, MediaError, parse_media, parse_media_strictly
from sarvel.core.css.tokens import loose_end
from sarvel.core.css.viewports import EVERY, Viewports
from sarvel.core.html.sizes import FULL_WIDTH, parse_sizes
from sarvel.core.layout.bands import Band, bands_from
from sarvel.core.layout.shown import EVERYWHERE, Shown, Step
from sarvel.core.model import CropRule, Treatment
from sarvel.plan import schema
from sarvel.plan.key_lines import KeyPath
from sarvel.plan.messages import Problem, nearest, shortened
from sarvel.plan.schema import EVERY_BAND, CropStep, ShownStep

Breakpoints = Mapping[str, float]

# Viewports on which shown widths are tried, CSS px: from below the narrowest phone to above the widest desktop.
_WIDTHS = (240, 320, 480, 640, 768, 1024, 1280, 1600, 1920, 2560, 3840)
_HEIGHTS = (480, 1080)
_WIDEST = 100_000


def read_shown(said: Mapping[str, str] | Sequence[ShownStep], breakpoints: Breakpoints, path: KeyPath) -> Shown:
    """A shown width: a length, a whole `sizes` value, lengths by band, or a list with the width each begins at.

    Raises:
        Problem: it is not one of these; a length is faulty; some viewports are left out.
    """
    if not isinstance(said, Mapping):
        return _checked(_shown_in_order(said, path), path)
    if EVERY_BAND in said:
        return _checked(_shown_for_all(said[EVERY_BAND], path), path)
    lengths = tuple((band, _length(value, key)) for band, value, key in _by_band(said, breakpoints, path))
    return _checked(Shown.by_band(lengths), path)


def read_crops(slot: schema.SlotTable, breakpoints: Breakpoints, path: KeyPath) -> tuple[CropRule, ...]:
    """Crops in the order tried: one ratio, ratios by band, or a list with a media condition each.

    Raises:
        Problem: a ratio or a condition is faulty; some viewports are left out; a crop can never be met.
    """
    if not isinstance(slot.crops, Mapping):
        return _crops_in_order(slot, slot.crops, path)
    if EVERY_BAND in slot.crops:
        return (_rule("", EVERYWHERE, read_ratio(slot.crops[EVERY_BAND], path), slot),)
    bands = _by_band(slot.crops, breakpoints, path)
    return tuple(
        _rule(band.name, parse_media(band.media) if band.media else EVERYWHERE, read_ratio(value, key), slot)
        for band, value, key in reversed(bands)
    )


def _rule(name: str, media: Media, ratio: float | None, *looks: schema.LookKeys) -> CropRule:
    """A crop with its looks; those said nearer to it win."""
    said: dict[str, Any] = {}
    for look in looks:
        for key in schema.LookKeys.model_fields:
            if (value := getattr(look, key)) is not None:
                said.setdefault(key, value)
    treatment = Treatment(**{key: value for key, value in said.items() if key not in ("zoom", "subject_at")})
    at = said.get("subject_at", CENTRE)
    return CropRule(name, media, ratio, said.get("zoom", 1.0), (at[0], at[1]), treatment)


def _shown_for_all(css: str, path: KeyPath) -> Shown:
    """One length, or a `sizes` value as CSS writes it; `auto` in front is ours to write, and dropped."""
    _check_closed(css, path)
    entries = [entry for entry in parse_sizes(css) if entry.length is not None or entry.fault]
    if not entries or (len(entries) == 1 and entries[0].fault and not entries[0].length):
        return Shown((Step(EVERYWHERE, _length(css, path)),))
    steps = []
    for entry in entries:
        if entry.fault or entry.length is None:
            raise Problem(
                path, f"a browser drops an entry of this sizes value: {entry.fault}", "mend it or take it away"
            )
        steps.append(Step(entry.media, entry.length))
    return Shown(tuple(steps) if not steps[-1].media.css else (*steps, Step(EVERYWHERE, FULL_WIDTH)))


def _shown_in_order(steps: Sequence[ShownStep], path: KeyPath) -> Shown:
    starts = [step.from_ for step in steps]
    if not steps or min(starts) != 0:
        raise Problem(path, "says nothing for the narrowest viewports", "begin with { from = 0, width = … }")
    if len(set(starts)) < len(starts):
        raise Problem(path, "two widths begin at the same viewport width", "take one of them away")
    bands = bands_from({str(start): start for start in starts}, [str(start) for start in starts])
    widths = {str(step.from_): (i, step.width) for i, step in enumerate(steps)}
    return Shown.by_band(
        tuple((band, _length(widths[band.name][1], (*path, widths[band.name][0], "width"))) for band in bands)
    )


def _crops_in_order(slot: schema.SlotTable, steps: Sequence[CropStep], path: KeyPath) -> tuple[CropRule, ...]:
    if not steps:
        raise Problem(path, "is empty", "write at least one crop with a ratio")
    rules: list[CropRule] = []
    left = EVERY
    for i, step in enumerate(steps):
        key = (*path, i)
        name = str(i + 1) if len(steps) > 1 else ""
        media, ratio = _media(step.when, (*key, "when")), read_ratio(step.ratio, (*key, "ratio"))
        _check_within_reach(media, left, rules, key)
        left &= media.test.can_fail
        rules.append(_rule(name, media, ratio, step, slot))
    if left.whole():
        raise Problem(
            path, f"no crop is sure to hold on {left.whole()}", "end with a crop without `when`, for all other devices"
        )
    return tuple(rules)


def _check_within_reach(media: Media, left: Viewports, before: list[CropRule], key: KeyPath) -> None:
    """Raises a Problem if no device gets to a crop: its condition never holds, or earlier ones take all that meet it."""
    span = media.test.can_hold
    if not span.whole():
        raise Problem((*key, "when"), f"'{media.css}' holds on no screen", "mend it or take the crop away")
    if not (left & span).whole() or any(rule.media == media for rule in before):
        raise Problem(
            key, f"no device can meet it: on {span} the crops before it always hold", "move it up or take it away"
        )


def _media(css: str | None, path: KeyPath) -> Media:
    if css is None:
        return EVERYWHERE
    _check_closed(css, path)
    try:
        return parse_media_strictly(css)
    except MediaError as error:
        raise Problem(path, str(error)) from error


def _by_band(said: Mapping[str, str], breakpoints: Breakpoints, path: KeyPath) -> list[tuple[Band, str, KeyPath]]:
    """The values of bands, narrowest first, each with its place in the plan."""
    for band in said:
        if band not in breakpoints:
            raise Problem((*path, band), f"'{band}' is no breakpoint", nearest(band, breakpoints))
    first = min(breakpoints, key=lambda name: breakpoints[name])
    if first not in said:
        raise Problem(path, "sets nothing for viewports narrower than its first breakpoint", f"begin with {first} = …")
    return [(band, said[band.name], (*path, band.name)) for band in bands_from({**breakpoints, first: 0}, list(said))]


def _length(css: str, path: KeyPath) -> Length:
    _check_closed(css, path)
    try:
        return parse_length(css)
    except LengthError as error:
        place = f" (letter {error.column} of '{shortened(css)}')" if error.column > 1 else ""
        raise Problem(path, error.problem + place) from error


def _check_closed(css: str, path: KeyPath) -> None:
    """Raises a Problem if a text would not stay by itself in an attribute or a stylesheet."""
    if loose := loose_end(css):
        raise Problem(path, f"'{shortened(css)}' holds {loose}", "close it or take it away")


def _checked(shown: Shown, path: KeyPath) -> Shown:
    """Raises a Problem if sizes gives a width that no screen could show."""
    widths = {width: shown.on(Device(width, height)) for width in _WIDTHS for height in _HEIGHTS}
    for at, width in widths.items():
        if not width <= _WIDEST:  # nor if it is not a number
            told = f"{width:,.0f} px" if math.isfinite(width) else "no number"
            raise Problem(path, f"is {told} on a viewport of {at} px", f"write a width of at most {_WIDEST} px")
    if not any(widths.values()):
        raise Problem(path, "is 0 px on every viewport", "write how wide the layout shows the image")
    return shown


def read_ratio(text: str, path: KeyPath) -> float | None:
    """A ratio as width divided by height; None for "native".

    Raises:
        Problem: it is not one, or beyond 20:1.
    """
    if text == "native":
        return None
    try:
        width, height = (float(part) for part in text.split(":"))
        ratio = width / height
    except (ValueError, ZeroDivisionError):
        ratio = 0.0
    # Beyond 20:1 a crop of the largest master would be a few hundred pixels high at most: a slip, such as 169 for 16:9.
    if not 1 / 20 <= ratio <= 20:
        raise Problem(
            path, f"'{text}' is no ratio between 1:20 and 20:1", 'write width:height such as "4:3", or "native"'
        )
    return ratio
