"""Media features: their tests of a device, and the viewport widths on which the answer can be yes or no."""

from __future__ import annotations

import math
import operator
from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import TypeAlias

from tinycss2.ast import DimensionToken, IdentToken, LiteralToken, Node, NumberToken

from sarvel.core.css.device import Device
from sarvel.core.css.lengths import Length, LengthError, length_of
from sarvel.core.css.viewports import EVERY, NONE, Viewports, at_least, more_than

FeatureTest: TypeAlias = tuple[Callable[[Device], bool | None], Viewports, Viewports]
Reading: TypeAlias = Callable[[Device], float]  # a value of a comparison

_COMPARED: dict[str, Callable[[float, float], bool]] = {
    "<": operator.lt,
    "<=": operator.le,
    ">": operator.gt,
    ">=": operator.ge,
    "=": operator.eq,
}
_MIRRORED = {"<": ">", "<=": ">=", ">": "<", ">=": "<=", "=": "="}

# CSS Values and Units 4, section 7.4 "Resolution Units": in dots for each CSS px.
_DOTS = {"dppx": 1.0, "x": 1.0, "dpi": 1 / 96, "dpcm": 2.54 / 96}

_RANGED: dict[str, Reading] = {
    "width": lambda device: device.width,
    "height": lambda device: device.height,
    "aspect-ratio": lambda device: device.width / device.height,
    # Media Queries 4, appendix A, which keeps these for old pages: of the screen, which on phones is the viewport.
    "device-width": lambda device: device.width,
    "device-height": lambda device: device.height,
    "device-aspect-ratio": lambda device: device.width / device.height,
    "resolution": lambda device: device.dpr,
    "-webkit-device-pixel-ratio": lambda device: device.dpr,
    "color": lambda _: 8,
    "monochrome": lambda _: 0,
    "grid": lambda _: 0,
}

# Each with the answer of a device, None where it does not know the question. What a Device does not say is what an
# ordinary screen with ordinary settings says.
_NAMED: dict[str, Callable[[Device], str | None]] = {
    "orientation": lambda device: "portrait" if device.height >= device.width else "landscape",
    "hover": lambda device: "hover" if device.hover else "none",
    "any-hover": lambda device: "hover" if device.hover else "none",
    "pointer": lambda device: device.pointer,
    "any-pointer": lambda device: device.pointer,
    "prefers-color-scheme": lambda device: device.color_scheme,
    "prefers-reduced-data": lambda device: (
        None if device.reduced_data is None else "reduce" if device.reduced_data else "no-preference"
    ),
    "prefers-reduced-motion": lambda _: "no-preference",
    "prefers-contrast": lambda _: "no-preference",
    "forced-colors": lambda _: "none",
    "inverted-colors": lambda _: "none",
    "scripting": lambda _: "enabled",
    "update": lambda _: "fast",
    "display-mode": lambda _: "browser",
    "color-gamut": lambda _: "srgb",
    "dynamic-range": lambda _: "standard",
}
_VALUES: dict[str, frozenset[str]] = {
    "orientation": frozenset({"portrait", "landscape"}),
    "hover": frozenset({"none", "hover"}),
    "any-hover": frozenset({"none", "hover"}),
    "pointer": frozenset({"none", "coarse", "fine"}),
    "any-pointer": frozenset({"none", "coarse", "fine"}),
    "prefers-color-scheme": frozenset({"light", "dark"}),
    "prefers-reduced-data": frozenset({"no-preference", "reduce"}),
    "prefers-reduced-motion": frozenset({"no-preference", "reduce"}),
    "prefers-contrast": frozenset({"no-preference", "more", "less", "custom"}),
    "forced-colors": frozenset({"none", "active"}),
    "inverted-colors": frozenset({"none", "inverted"}),
    "scripting": frozenset({"none", "initial-only", "enabled"}),
    "update": frozenset({"none", "slow", "fast"}),
    "display-mode": frozenset({"fullscreen", "standalone", "minimal-ui", "browser"}),
    "color-gamut": frozenset({"srgb", "p3", "rec2020"}),
    "dynamic-range": frozenset({"standard", "high"}),
}
FEATURES = (
    *(f"{bound}{name}" for name in _RANGED for bound in ("", "min-", "max-") if not name.startswith("-")),
    *(f"-webkit-{bound}device-pixel-ratio" for bound in ("", "min-", "max-")),
    *_NAMED,
)
"""The names of all media features that are known here."""

VALUES = tuple(sorted(frozenset[str]().union(*_VALUES.values())))
"""All words that media features have as values."""

_NO = frozenset({"none", "no-preference"})  # values that are false where a feature is alone


def feature_test(tokens: Sequence[Node]) -> FeatureTest | None:
    """The test of a media feature in brackets, without white space; None if it is not known or not well formed."""
    if not tokens:
        return None
    if len(tokens) >= 2 and isinstance(tokens[0], IdentToken) and _is(tokens[1], ":"):
        return _plain(tokens[0].lower_value, tokens[2:])
    if len(tokens) == 1 and isinstance(tokens[0], IdentToken):
        return _alone(tokens[0].lower_value)
    return _range(tokens)


def _plain(name: str, value: Sequence[Node]) -> FeatureTest | None:
    """`name: value`, with `min-` or `max-` in front of the name of a range."""
    ranged, comparison = name, "="
    for prefix, sign in (("min-", ">="), ("max-", "<=")):
        bare = name.replace("-webkit-" + prefix, "-webkit-").removeprefix(prefix)
        if bare != name:
            ranged, comparison = bare, sign
    if ranged in _RANGED:
        return _compared(ranged, comparison, value)
    if (
        name in _NAMED
        and len(value) == 1
        and isinstance(value[0], IdentToken)
        and value[0].lower_value in _VALUES[name]
    ):
        return _named(name, frozenset({value[0].lower_value}))
    return None


def _alone(name: str) -> FeatureTest | None:
    """`(name)`: whether it is anything but zero or none."""
    if name in _RANGED:
        reading = _RANGED[name]
        return (lambda device: reading(device) != 0), EVERY, (NONE if name == "width" else EVERY)
    return _named(name, _VALUES[name] - _NO) if name in _NAMED else None


def _named(name: str, wanted: frozenset[str]) -> FeatureTest:
    answer = _NAMED[name]

    def on(device: Device) -> bool | None:
        value = answer(device)
        return None if value is None else value in wanted

    return on, EVERY, EVERY


def _range(tokens: Sequence[Node]) -> FeatureTest | None:
    """`width >= 640px`, `640px <= width`, `640px <= width < 1024px`."""
    parts = _sides(tokens)
    if parts is None:
        return None
    sides, signs = parts
    names = [i for i, side in enumerate(sides) if len(side) == 1 and _name(side[0]) in _RANGED]
    if len(names) != 1:
        return None
    name = _name(sides[names[0]][0])
    if len(sides) == 2:
        sign = signs[0] if names[0] == 0 else _MIRRORED[signs[0]]
        return _compared(name, sign, sides[1 - names[0]])
    if names[0] != 1 or signs[0][0] != signs[1][0] or "=" in signs:
        return None
    low, high = _compared(name, _MIRRORED[signs[0]], sides[0]), _compared(name, signs[1], sides[2])
    if low is None or high is None:
        return None
    (low_on, low_hold, low_fail), (high_on, high_hold, high_fail) = low, high
    return (lambda device: bool(low_on(device) and high_on(device))), low_hold & high_hold, low_fail | high_fail


def _sides(tokens: Sequence[Node]) -> tuple[list[list[Node]], list[str]] | None:
    """The sides of a comparison, and its signs: one or two."""
    sides: list[list[Node]] = [[]]
    signs: list[str] = []
    for before, token in pairwise([None, *tokens]):
        if token is None:
            continue
        if (
            _is(token, "=")
            and (_is(before, "<") or _is(before, ">"))
            and before
            and token.source_column == before.source_column + 1
        ):
            signs[-1] += "="
        elif isinstance(token, LiteralToken) and token.value in _COMPARED:
            signs.append(token.value)
            sides.append([])
        else:
            sides[-1].append(token)
    return (sides, signs) if len(signs) in (1, 2) and all(sides) else None


def _compared(name: str, sign: str, value: Sequence[Node]) -> FeatureTest | None:
    """A feature of a range against a value."""
    wanted = _value(name, value)
    if wanted is None:
        return None
    reading, holds = _RANGED[name], _COMPARED[sign]
    hold, fail = EVERY, EVERY
    if name == "width" and (width := Length("", wanted).fixed()) is not None:
        hold = _widths(sign, width)
        fail = EVERY - hold
    return (lambda device: holds(reading(device), wanted(device))), hold, fail


def _widths(sign: str, width: float) -> Viewports:
    match sign:
        case ">=":
            return at_least(width)
        case ">":
            return more_than(width)
        case "<":
            return EVERY - at_least(width)
        case "<=":
            return EVERY - more_than(width)
    return at_least(width) - more_than(width)


def _value(name: str, tokens: Sequence[Node]) -> Reading | None:
    """The value next to a feature of a range, in the feature's kind; None if it is of another."""
    name = name.removeprefix("device-")
    if name in ("width", "height"):
        return _length(tokens)
    if name == "aspect-ratio":
        return _ratio(tokens)
    number = _dots(tokens) if name == "resolution" else _number(tokens)
    return None if number is None else lambda _: number


def _dots(tokens: Sequence[Node]) -> float | None:
    match tokens:
        case [IdentToken() as word] if word.lower_value == "infinite":
            return math.inf
        case [DimensionToken() as token] if token.lower_unit in _DOTS:
            return float(token.value) * _DOTS[token.lower_unit]
    return None


def _number(tokens: Sequence[Node]) -> float | None:
    return float(tokens[0].value) if len(tokens) == 1 and isinstance(tokens[0], NumberToken) else None


def _length(tokens: Sequence[Node]) -> Reading | None:
    try:
        return length_of(tokens).value
    except LengthError:
        return None


def _ratio(tokens: Sequence[Node]) -> Reading | None:
    numbers = [float(token.value) for token in tokens[::2] if isinstance(token, NumberToken)]
    if len(numbers) != len(tokens[::2]) or len(tokens) not in (1, 3) or any(number < 0 for number in numbers):
        return None
    if len(tokens) == 3 and not _is(tokens[1], "/"):
        return None
    above, below = numbers[0], numbers[1] if len(numbers) == 2 else 1.0
    ratio = above / below if below else math.inf
    return lambda _: ratio


def _is(token: Node | None, mark: str) -> bool:
    return isinstance(token, LiteralToken) and token.value == mark


def _name(token: Node) -> str:
    return token.lower_value if isinstance(token, IdentToken) else ""
