"""CSS lengths: parsed once, evaluated on any device.

What belongs here: the units and functions of CSS Values and Units 4 that `sizes` may hold (section 6 "Distance Units",
section 10 "Mathematical Expressions"). What does not: percentages, which `sizes` cannot hold because an image's
container is not known when its file is chosen (HTML, "sizes attributes"), and units that depend on an element.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from typing import Literal, TypeAlias

import tinycss2
from tinycss2.ast import DimensionToken, FunctionBlock, LiteralToken, Node, NumberToken, ParenthesesBlock

from sarvel.core.css.device import Device
from sarvel.core.css.tokens import parted, tokens_of

Kind: TypeAlias = Literal["length", "number"]
Value: TypeAlias = Callable[[Device], float]

# CSS Values and Units 4, section 6.2 "Absolute Lengths": 1in = 96px = 2.54cm = 72pt = 6pc.
_ABSOLUTE = {"px": 1.0, "in": 96.0, "cm": 96 / 2.54, "mm": 9.6 / 2.54, "q": 2.4 / 2.54, "pt": 96 / 72, "pc": 16.0}

# Section 6.1.1 "Font-relative Lengths": assumptions about an unknown font; a line is commonly 1.2 em high, and
# capitals 0.7 em. In `sizes` there is no element, so each is of the initial font.
_OF_FONT = {"em": 1.0, "ex": 0.5, "ch": 0.5, "cap": 0.7, "ic": 1.0, "lh": 1.2}


def _of_font(part: float) -> Value:
    return lambda device: part * device.font


# Section 6.1.2 "Viewport-percentage Lengths", in horizontal writing; of a Device the small, large and dynamic viewport are one.
_OF_VIEWPORT: dict[str, Value] = {
    "w": lambda d: d.width / 100,
    "h": lambda d: d.height / 100,
    "i": lambda d: d.width / 100,
    "b": lambda d: d.height / 100,
    "min": lambda d: min(d.width, d.height) / 100,
    "max": lambda d: max(d.width, d.height) / 100,
}

# CSS Conditional 5, section 7 "Container Relative Lengths": without a container they are of the small viewport.
_RELATIVE: dict[str, Value] = {
    **{f"{root}{unit}": _of_font(part) for unit, part in _OF_FONT.items() for root in ("", "r")},
    **{f"{which}{unit}": value for unit, value in _OF_VIEWPORT.items() for which in ("v", "sv", "lv", "dv", "cq")},
}

UNITS = tuple(dict.fromkeys(("px", "vw", "rem", "em", "vh", "vmin", "vmax", *_ABSOLUTE, *_RELATIVE)))
"""All units that are read, those first that sizes commonly holds."""

_UNITS = "px, em, rem, vw, vh, vmin, vmax, cm, mm, in, pt, pc"


_MOST_TOKENS = (
    400  # of one sum, white space counted: no one writes more, and each is a step deeper when it is evaluated
)


class LengthError(ValueError):
    """A text that is no length `sizes` could hold.

    Attributes:
        column: where in the text, counted from 1.
        problem: the fault there and its cure.
    """

    def __init__(self, problem: str, column: int = 1) -> None:
        super().__init__(problem)
        self.problem = problem
        self.column = column


@dataclass(frozen=True)
class Length:
    """A CSS length as written, with its value on any device. Lengths written the same are equal."""

    css: str
    value: Value = field(compare=False)

    def on(self, device: Device) -> float:
        """The length in CSS px on this device; never negative, as `sizes` knows no negative width."""
        return max(0.0, self.value(device))

    def fixed(self) -> float | None:
        """The length in CSS px if it is one and the same on every device, else None."""
        # Four viewports that differ in every way a length can depend on: width, height, the lesser, the greater.
        values = {self.on(Device(*viewport)) for viewport in ((320, 480), (480, 320), (997, 613), (613, 997))}
        return values.pop() if len(values) == 1 else None

    def at_most(self, most: float) -> Length:
        """The length, or so many CSS px where it is more."""
        fixed = self.fixed()
        if fixed is not None:
            return self if fixed <= most else parse_length(f"{most:g}px")
        inner = _arguments_of_min(self.css) or self.css
        return parse_length(f"min({inner}, {most:g}px)")


def _arguments_of_min(css: str) -> str:
    """The arguments of a length that is one call of min(); else ""."""
    match [token for token in tokens_of(css) if token.type != "whitespace"]:
        case [FunctionBlock(lower_name="min") as call]:
            return tinycss2.serialize(call.arguments).strip()
    return ""


@dataclass(frozen=True)
class _Term:
    """A part of an expression: its kind, and its value in CSS px or as a bare number."""

    kind: Kind
    value: Value


def parse_length(css: str) -> Length:
    """Reads a CSS length such as `100vw`, `384px` or `min(100vw - 4rem, 1280px)`.

    Raises:
        LengthError: the text is no such length, or is negative; names the place and the cure.
    """
    tokens = tokens_of(css)
    length = length_of([token for token in tokens if token.type not in ("whitespace", "comment")])
    if is_negative(tokens):
        raise LengthError(f"'{css.strip()}' is negative; write a width")
    return Length(css.strip(), length.value)


def is_negative(tokens: Sequence[Node]) -> bool:
    """Tells whether a length is a bare number below zero; calc() may result in one, and then means 0."""
    return any(isinstance(token, DimensionToken) and token.value < 0 for token in tokens)


def length_of(tokens: Sequence[Node]) -> Length:
    """Reads a length from tokens without comments, and without white space outside brackets. It may be negative.

    Raises:
        LengthError: they are no length.
    """
    if len(tokens) != 1:
        raise _not_one(tokens)
    token = tokens[0]
    css = token.serialize()
    if isinstance(token, NumberToken) and token.value != 0:
        raise LengthError(f"'{css}' has no unit; write \"{css}px\"", token.source_column)
    term = _Term("length", lambda _: 0.0) if isinstance(token, NumberToken) else _operand(token)
    if term.kind != "length":
        raise LengthError(f"'{css}' is a number, not a length; give it a unit such as px", token.source_column)
    return Length(css, term.value)


def _not_one(tokens: Sequence[Node]) -> LengthError:
    if not tokens:
        return LengthError('is empty; write a CSS length such as "100vw"')
    css = " ".join(token.serialize() for token in tokens)
    if any(isinstance(token, LiteralToken) and token.value in "+-*/" for token in tokens):
        return LengthError(f'arithmetic needs calc(); write "calc({css})"', tokens[1].source_column)
    return LengthError(f"'{css}' is more than one length; write one", tokens[1].source_column)


def _operand(token: Node) -> _Term:
    """A single value: a dimension, a number inside calc(), a function or a bracket."""
    match token:
        case DimensionToken():
            return _dimension(token)
        case NumberToken():
            number = float(token.value)
            return _Term("number", lambda _: number)
        case FunctionBlock():
            return _function(token)
        case ParenthesesBlock():
            return _sum(token.content, token)
    if token.type == "percentage":
        raise LengthError(
            f"'{token.serialize()}' depends on a container that is unknown when the file is chosen; "
            "write it of the viewport, in vw",
            token.source_column,
        )
    raise LengthError(f"'{token.serialize()}' is no CSS length; write one in {_UNITS}", token.source_column)


def _dimension(token: DimensionToken) -> _Term:
    number, unit = float(token.value), token.lower_unit
    if unit in _ABSOLUTE:
        pixels = number * _ABSOLUTE[unit]
        return _Term("length", lambda _: pixels)
    if unit in _RELATIVE:
        one = _RELATIVE[unit]
        return _Term("length", lambda device: number * one(device))
    raise LengthError(
        f"'{token.unit}' in '{token.serialize()}' is no unit known here; write one of {_UNITS}", token.source_column
    )


def _function(token: FunctionBlock) -> _Term:
    name = token.lower_name
    if name == "calc":
        return _sum(token.arguments, token)
    counts = {"min": (1, math.inf), "max": (1, math.inf), "clamp": (3, 3)}
    if name not in counts:
        raise LengthError(
            f"'{token.name}()' is no function known here; write calc(), min(), max() or clamp()", token.source_column
        )
    terms = [_sum(argument, token) for argument in parted(token.arguments)]
    if not counts[name][0] <= len(terms) <= counts[name][1]:
        raise LengthError(
            f"clamp() takes three values, got {len(terms)}; write clamp(least, wanted, most)", token.source_column
        )
    if len({term.kind for term in terms}) > 1:
        raise LengthError(f"{name}() mixes numbers and lengths; give each a unit", token.source_column)
    return _Term(terms[0].kind, _chosen(name, [term.value for term in terms]))


def _chosen(name: str, values: list[Value]) -> Value:
    """The value of min(), max() or clamp(); for clamp the least wins over the most (CSS Values 4, section 10.2)."""
    if name == "min":
        return lambda device: min(value(device) for value in values)
    if name == "max":
        return lambda device: max(value(device) for value in values)
    least, wanted, most = values
    return lambda device: max(least(device), min(wanted(device), most(device)))


def _sum(tokens: Iterable[Node], around: Node) -> _Term:
    """Reads products joined by + and -, which CSS wants between spaces."""
    tokens = _bare(tokens)
    if len(tokens) > _MOST_TOKENS:
        raise LengthError(f"more than {_MOST_TOKENS} parts in one expression; write it shorter", around.source_column)
    if not tokens:
        raise LengthError("an empty value in an expression; write a length there", around.source_column)
    total: _Term | None = None
    sign, product = 1.0, []
    for i, token in enumerate([*tokens, None]):
        mark = token.value if isinstance(token, LiteralToken) else None
        if token is not None and mark not in ("+", "-"):
            product.append(token)
            continue
        if token is not None and not _spaced(tokens, i):
            raise LengthError(f"'{mark}' in an expression needs a space on both sides", token.source_column)
        term = _product([part for part in product if part.type != "whitespace"], token or around)
        total = term if total is None else _added(total, term, sign, around)
        sign, product = (1.0 if mark == "+" else -1.0), []
    if total is None:  # pragma: no cover - the loop above ran at least once
        raise LengthError("an empty value in an expression; write a length there", around.source_column)
    return total


def _spaced(tokens: list[Node], i: int) -> bool:
    return 0 < i < len(tokens) - 1 and tokens[i - 1].type == "whitespace" and tokens[i + 1].type == "whitespace"


def _added(left: _Term, right: _Term, sign: float, around: Node) -> _Term:
    if left.kind != right.kind:
        raise LengthError("a number and a length cannot be added; give each a unit", around.source_column)
    a, b = left.value, right.value
    return _Term(left.kind, lambda device: a(device) + sign * b(device))


def _product(tokens: list[Node], around: Node) -> _Term:
    """Reads values joined by * and /: at most one side of a product is a length, and a divisor is a number."""
    if len(tokens) % 2 == 0:
        raise LengthError(
            "an operator or a value is missing in an expression; + and - need a space on both sides",
            (tokens[-1] if tokens else around).source_column,
        )
    result = _operand(tokens[0])
    for mark, token in zip(tokens[1::2], tokens[2::2], strict=True):
        if not isinstance(mark, LiteralToken) or mark.value not in ("*", "/"):
            raise LengthError(f"expected + - * or / before '{token.serialize()}'", mark.source_column)
        result = _multiplied(result, _operand(token), mark)
    return result


def _multiplied(left: _Term, right: _Term, mark: LiteralToken) -> _Term:
    a, b = left.value, right.value
    if mark.value == "/":
        if right.kind != "number":
            raise LengthError("a divisor must be a number without unit", mark.source_column)
        return _Term(left.kind, lambda device: a(device) / b(device) if b(device) else math.inf)
    if left.kind == right.kind == "length":
        raise LengthError("two lengths cannot be multiplied; take the unit off one", mark.source_column)
    kind: Kind = "length" if "length" in (left.kind, right.kind) else "number"
    return _Term(kind, lambda device: a(device) * b(device))


def _bare(tokens: Iterable[Node]) -> list[Node]:
    """Without comments, and without white space at either end."""
    bare = [token for token in tokens if token.type != "comment"]
    while bare and bare[0].type == "whitespace":
        bare.pop(0)
    while bare and bare[-1].type == "whitespace":
        bare.pop()
    return bare
