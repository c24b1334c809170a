"""Breakpoints of a site's stylesheets: the viewport widths that its media queries ask for."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Iterator

from tinycss2.ast import DimensionToken, IdentToken, LiteralToken, Node, ParenthesesBlock

from sarvel.core.css.tokens import parted, tokens_of

_EM = 16.0  # CSS px; in media queries em is the initial font size (Media Queries 4, section 1.3), which is 16 px in browsers
_WIDEST = 4000.0  # CSS px; no layout breaks above


def breakpoints_of(media: Iterable[str]) -> Counter[float]:
    """Viewport widths, CSS px, where some media query begins to hold or ceases to, and how many do.

    `max-width: 639px` and `639.98px` end where 640 px begins.
    """
    found: Counter[float] = Counter()
    for css in media:
        starts = {start for query in parted(tokens_of(css)) for token in query for start in _starts(token)}
        found.update(start for start in starts if 0 < start < _WIDEST)
    return found


def _starts(token: Node) -> Iterator[float]:
    if not isinstance(token, ParenthesesBlock):
        return
    bare = [one for one in token.content if one.type not in ("whitespace", "comment")]
    for one in bare:
        yield from _starts(one)
    words = [one.lower_value for one in bare if isinstance(one, IdentToken)]
    lengths = [px for one in bare if (px := _px(one)) is not None]
    signs = "".join(one.value for one in bare if isinstance(one, LiteralToken))
    match words:
        case ["min-width"]:
            yield from map(math.ceil, lengths[:1])
        case ["max-width"]:
            yield from (math.floor(px) + 1 for px in lengths[:1])
        case ["width"] if "<" in signs or ">" in signs:
            yield from map(round, lengths)


def _px(token: Node) -> float | None:
    if not isinstance(token, DimensionToken):
        return None
    unit = {"px": 1.0, "em": _EM, "rem": _EM}.get(token.lower_unit)
    return token.value * unit if unit else None
