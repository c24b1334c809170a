"""A measured width in CSS: the shortest lengths by breakpoint with an error of at most half a pixel at every measured width."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from sarvel.core.css.device import Device
from sarvel.core.css.lengths import parse_length
from sarvel.core.layout.bends import Widths
from sarvel.core.layout.lines import Piece, Point, pieces_of

ALLOWED = 0.5
"""Greatest error, CSS px: the needed pixels are rounded up, so half a pixel asks for no other file."""

_BETTER = 0.25  # error that a longer text is worth
_FONT = 16.0  # CSS px: what rem means in `sizes`, by HTML's initial font size
_DIVISORS = range(2, 13)  # columns that a grid may have
_EIGHTH = 0.125
_MOST_PARTS = 3  # of min() and max(): what people read at a glance


@dataclass(frozen=True)
class Pull:
    """Pull of things next to the viewport's width on a box.

    Attributes:
        font: change of its width for each px of the initial font size.
        height: change of its width for each px of viewport height.
    """

    font: float = 0.0
    height: float = 0.0


@dataclass(frozen=True)
class Fitted:
    """A measured width in CSS.

    Attributes:
        steps: viewport widths, CSS px, from which on each length holds, the first at 0.
        error: the largest difference from the measurements, CSS px.
    """

    steps: tuple[tuple[int, str], ...]
    error: float

    def on(self, device: Device) -> float:
        """The width on a device, CSS px."""
        css = next(css for start, css in reversed(self.steps) if start <= device.width)
        return parse_length(css).on(device)


def fit_shown(seen: Widths, pulls: Mapping[int, Pull], height: float) -> Fitted:
    """The shortest lengths for a measured width.

    Args:
        seen: the measured widths; at least one of them shown.
        pulls: other dependencies, at some viewport widths.
        height: of the viewports, CSS px.
    """
    pieces = pieces_of(seen)
    lines = [_line(piece, _pull(piece, pulls), height) for piece in pieces]
    steps: list[_Step] = []
    for piece, line in zip(pieces, lines, strict=True):
        joined = _joined(steps[-1], line, piece.points, height) if steps else None
        if joined:
            steps[-1] = joined
        else:
            steps.append(_Step(piece.points, "", (line,)))
    written = [(step.points[0][0] if i else 0, step.css) for i, step in enumerate(steps)]
    kept = [one for i, one in enumerate(written) if not i or one[1] != written[i - 1][1]]
    fitted = Fitted(tuple(kept), 0.0)
    shown = [(at, width) for at, width in seen.items() if width is not None]
    error = max(abs(fitted.on(Device(at, height)) - width) for at, width in shown)
    return Fitted(fitted.steps, error)


def middles(seen: Widths) -> list[int]:
    """A viewport width of each piece, CSS px, far from both its ends: where to look for other dependencies."""
    return [piece.points[len(piece.points) // 2][0] for piece in pieces_of(seen)]


def _pull(piece: Piece, pulls: Mapping[int, Pull]) -> Pull:
    near = [at for at in pulls if piece.start <= at <= piece.end]
    return pulls[near[len(near) // 2]] if near else Pull()


@dataclass(frozen=True)
class _Line:
    """A length that is linear in the viewport's width: its text without `calc`, and its terms.

    Attributes:
        css: as CSS writes it within a function.
    """

    css: str
    terms: int

    def on(self, at: float, height: float) -> float:
        return parse_length(self.alone).on(Device(at, height))

    @property
    def alone(self) -> str:
        """As CSS writes it by itself."""
        return self.css if self.terms == 1 and not self.css.startswith("(") else f"calc({self.css})"


@dataclass(frozen=True)
class _Step:
    """Pieces under one length: a line, or the least or greatest of some.

    Attributes:
        points: in order.
        function: "min", "max", or "" for a line.
        parts: the lines, or one line and a step within.
    """

    points: tuple[Point, ...]
    function: str
    parts: tuple[_Line | _Step, ...]

    @property
    def css(self) -> str:
        if not self.function:
            only = self.parts[0]
            return only.alone if isinstance(only, _Line) else only.css
        inner = (part.css for part in self.parts)
        return f"{self.function}({', '.join(inner)})"


def _joined(step: _Step, line: _Line, points: tuple[Point, ...], height: float) -> _Step | None:
    """A step and the line behind it as one length, if there is one that meets all their points; else None."""
    every = (*step.points, *points)
    for function in ("min", "max"):
        flat = step.function in ("", function)
        parts: tuple[_Line | _Step, ...] = (*step.parts, line) if flat else (step, line)
        depth = sum(len(part.parts) if isinstance(part, _Step) else 1 for part in parts)
        if depth > _MOST_PARTS or len(parts) < 2:
            continue
        found = _Step(every, function, parts)
        length = parse_length(found.css)
        if all(abs(length.on(Device(at, height)) - width) <= ALLOWED for at, width in every):
            return found
    return None


def _line(piece: Piece, pull: Pull, height: float) -> _Line:
    """The shortest text for a piece. Parts that depend on the font or the height may be in rem and vh."""
    font = round(pull.font / _EIGHTH) * _EIGHTH
    font = font if abs(font - pull.font) <= _EIGHTH / 2 else 0.0
    tall = round(pull.height * 100, 1)
    told = dict.fromkeys([(font, tall), (font, 0.0), (0.0, tall), (0.0, 0.0)])
    for most in (_BETTER, ALLOWED):
        fits = [one for rem, vh in told for one in _texts(piece, rem, vh, height, most)]
        if fits:
            return min(fits, key=lambda one: (len(one.css), "px" in one.css, one.css))
    _, y = piece.points[0]
    return _Line(f"{_number(y, 2)}px", 1)


def _texts(piece: Piece, rem: float, vh: float, height: float, most: float) -> Iterator[_Line]:
    """Texts for a piece whose error is at most `most`, CSS px."""
    rest = [(x, y - rem * _FONT - vh * height / 100) for x, y in piece.points]
    slope = piece.slope
    for digits in range(5):
        vw = round(100 * slope, digits)
        if (px := _offset(rest, vw / 100, most)) is not None:
            yield _sum([(vw, "vw"), (vh, "vh"), (rem, "rem"), (px, "px")])
    for parts in _DIVISORS:
        share = round(slope * parts)
        if share and abs(slope - share / parts) < 2e-3 and math.gcd(share, parts) == 1:
            px = _offset([(x, parts * y) for x, y in rest], float(share), parts * most)
            if px is not None:
                inner = _sum([(100.0 * share, "vw"), (vh * parts, "vh"), (rem * parts, "rem"), (px, "px")])
                yield _Line(f"({inner.css}) / {parts}" if inner.terms > 1 else f"{inner.css} / {parts}", 2)


def _offset(points: Sequence[Point], slope: float, most: float) -> float | None:
    """The roundest offset of a line of some slope that passes all points within `most`; None if none does."""
    offsets = [y - slope * x for x, y in points]
    low, high = max(offsets) - most, min(offsets) + most
    if low > high:
        return None
    middle = (low + high) / 2
    rounded = (round(middle / step) * step for step in (8.0, 4.0, 1.0, 0.5, 0.1, 0.01))
    return next((one for one in rounded if low <= one <= high and (one == round(one) or abs(one) > most)), middle)


def _sum(terms: Sequence[tuple[float, str]]) -> _Line:
    """A sum of terms as CSS writes it; those of 0 are left out."""
    told = [(value, unit) for value, unit in terms if abs(value) > 1e-9]
    if not told:
        return _Line("0px", 1)
    told.sort(key=lambda term: term[0] < 0)  # a sum begins with a positive term
    first = f"{_number(told[0][0])}{told[0][1]}"
    rest = (f" {'-' if value < 0 else '+'} {_number(abs(value))}{unit}" for value, unit in told[1:])
    return _Line("".join(itertools.chain([first], rest)), len(told))


def _number(value: float, digits: int = 4) -> str:
    text = f"{value:.{digits}f}".rstrip("0").rstrip(".")
    return "0" if text == "-0" else text
