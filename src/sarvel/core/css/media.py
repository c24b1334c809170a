"""Media queries: read once, asked of any device; and the viewport widths on which one can hold at all.

Follows Media Queries 4 (sections 2 "Media Queries", 3 "Syntax", 4 and 5 features) and of level 5 the `prefers-` features.
Truth has three values: an unknown feature is neither true nor false, so that `not (unknown)` does not hold either.
"""

from __future__ import annotations

import functools
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import TypeAlias

import tinycss2
from tinycss2.ast import IdentToken, Node, ParenthesesBlock

from sarvel.core.css.device import Device
from sarvel.core.css.features import feature_test
from sarvel.core.css.tokens import parted, tokens_of
from sarvel.core.css.viewports import EVERY, NONE, Viewports

Truth: TypeAlias = bool | None


@dataclass(frozen=True)
class Test:
    """A condition, or a part of one.

    Attributes:
        on: whether it holds on a device; None where that is not known.
        can_hold: viewport widths on which it can be true for some device.
        can_fail: viewport widths on which it can be false.
    """

    on: Callable[[Device], Truth]
    can_hold: Viewports
    can_fail: Viewports


@dataclass(frozen=True)
class Media:
    """A media query list, or the condition of an entry of `sizes`.

    Attributes:
        css: as written.
    """

    css: str
    test: Test

    def matches(self, device: Device) -> bool:
        """Tells whether it holds on a device."""
        return self.test.on(device) is True

    def __eq__(self, other: object) -> bool:
        """Two are equal if they are written the same."""
        return isinstance(other, Media) and self.css == other.css

    def __hash__(self) -> int:
        return hash(self.css)


class MediaError(ValueError):
    """A text that is no media condition. CSS reads it as "never"; for a hand-written plan it is an error."""


ALWAYS = Test(lambda _: True, EVERY, NONE)
NEVER = Test(lambda _: False, NONE, EVERY)
_UNKNOWN = Test(lambda _: None, NONE, NONE)


@functools.lru_cache(maxsize=1024)
def parse_media(css: str) -> Media:
    """Reads a media query list as a browser does: a query that is faulty never holds, the others still count."""
    tokens = tokens_of(css)
    queries = parted(_bare(tokens))
    if queries == [[]]:
        return Media(css, ALWAYS)
    tests = [_query(query) or NEVER for query in queries]
    return Media(css.strip(), _any(tests))


def parse_condition(tokens: Sequence[Node], css: str) -> Media | None:
    """Reads a media condition, such as the one before a length in `sizes`; None if it is not one, and so never holds."""
    test = _condition(_bare(tokens), either=True)
    return Media(css, test) if test else None


def parse_media_strictly(css: str) -> Media:
    """Reads a hand-written media query list.

    Raises:
        MediaError: a query of it is faulty, or asks what no browser knows.
    """
    media = parse_media(css)
    for query in parted(_bare(tokens_of(css))):
        test = _query(query)
        if test is None or (not test.can_hold and not test.can_fail):
            text = tinycss2.serialize(query).strip()
            raise MediaError(f"'{text}' is no media condition; write one such as \"(min-width: 640px)\"")
    return media


def _query(tokens: list[Node]) -> Test | None:
    """One query: a condition, or a media type with conditions; None if it is faulty."""
    if test := _condition(tokens, either=True):
        return test
    words = [token.lower_value if isinstance(token, IdentToken) else "" for token in tokens[:2]]
    negated = words[:1] == ["not"]
    rest = tokens[1:] if words[:1] in (["not"], ["only"]) else tokens
    if not rest or not isinstance(rest[0], IdentToken) or rest[0].lower_value in ("not", "only", "and", "or", "layer"):
        return None
    test = ALWAYS if rest[0].lower_value in ("all", "screen") else NEVER
    if len(rest) > 1:
        condition = _condition(rest[2:], either=False)
        if not isinstance(rest[1], IdentToken) or rest[1].lower_value != "and" or condition is None:
            return None
        test = _all([test, condition])
    return _not(test) if negated else test


def _condition(tokens: list[Node], *, either: bool) -> Test | None:
    """`not X`, or X's joined by `and`, or by `or` where `either` is allowed; None if it is faulty."""
    if tokens and isinstance(tokens[0], IdentToken) and tokens[0].lower_value == "not":
        inner = _bracket(tokens[1]) if len(tokens) == 2 else None
        return _not(inner) if inner else None
    parts = [_bracket(token) for token in tokens[::2]]
    joints = {token.lower_value if isinstance(token, IdentToken) else "" for token in tokens[1::2]}
    if len(tokens) % 2 == 0 or len(joints) > 1 or not joints <= ({"and", "or"} if either else {"and"}):
        return None
    tests = [part for part in parts if part]
    if len(tests) < len(parts):
        return None
    return _any(tests) if joints == {"or"} else _all(tests)


def _bracket(token: Node) -> Test | None:
    """Reads a condition or a feature in brackets; anything else is unknown, because it may mean something in future."""
    if token.type == "function":
        return _UNKNOWN
    if not isinstance(token, ParenthesesBlock):
        return None
    content = _bare(token.content)
    if test := _condition(content, either=True):
        return test
    found = feature_test(content)
    return Test(*found) if found else _UNKNOWN


def _not(test: Test) -> Test:
    def on(device: Device) -> Truth:
        value = test.on(device)
        return None if value is None else not value

    return Test(on, test.can_fail, test.can_hold)


def _all(tests: Sequence[Test]) -> Test:
    def on(device: Device) -> Truth:
        values = [test.on(device) for test in tests]
        return False if False in values else None if None in values else True

    hold, fail = EVERY, NONE
    for test in tests:
        hold, fail = hold & test.can_hold, fail | test.can_fail
    return Test(on, hold, fail)


def _any(tests: Sequence[Test]) -> Test:
    """By De Morgan: some holds unless all fail."""
    return tests[0] if len(tests) == 1 else _not(_all([_not(test) for test in tests]))


def _bare(tokens: Sequence[Node]) -> list[Node]:
    return [token for token in tokens if token.type not in ("whitespace", "comment")]
