"""Messages of one kind in one line: how many there are, the worst three, and an example of the words."""

from __future__ import annotations

import re
from collections.abc import Iterable

_FEW = 3
_NAMED = 8  # places that are named of what a share tells nothing about: each wants to be mended
_PLACE = re.compile(
    r"(?:cut )?\S+"
)  # a part of a place: `sarvel.toml`, `pages/index.html:3:9`, `slots.card`, `cut desk`
_QUOTED = re.compile(r"'[^']*'|\"(?:[^\"\\]|\\.)*\"")
_NUMBER = re.compile(r"\d[\d.,:×x@-]*")
_LIST = re.compile(r"#(?: kB| px|%)?(?:(?:, | and )#(?: kB| px|%)?)+(?: and # more)?")
_SHARE = re.compile(r"(\d+(?:\.\d+)?)\s*%")


def condensed(messages: Iterable[str]) -> list[str]:
    """Messages, of which more than three of one kind become one line.

    Args:
        messages: each with its place in front, the parts of both separated by a colon and a space.
    """
    kinds: dict[str, list[tuple[str, str]]] = {}
    for message in messages:
        place, words = _parted(message)
        kinds.setdefault(_kind(words), []).append((place, words))
    lines: list[str] = []
    for some in kinds.values():
        if len(some) <= _FEW:
            lines += [f"{place}: {words}" if place else words for place, words in some]
        else:
            lines.append(_in_one_line(some))
    return lines


def _in_one_line(some: list[tuple[str, str]]) -> str:
    shares = [max(map(float, _SHARE.findall(words)), default=0.0) for _, words in some]
    worst = [one for _, one in sorted(zip(shares, some, strict=True), key=lambda pair: -pair[0])]
    worst = worst[: _FEW if any(shares) else _NAMED]
    places = ", ".join(place or words for place, words in worst)
    words = worst[0][1]
    such, more = (" such as", "; --verbose has all") if len(worst) < len(some) else ("", "")
    return f"{len(some)} times,{such} {places}: {words}{more}"


def _parted(message: str) -> tuple[str, str]:
    """The place and the words of a message."""
    parts = message.split(": ")
    count = 0
    while count < len(parts) - 1 and _PLACE.fullmatch(parts[count]):
        count += 1
    return ": ".join(parts[:count]), ": ".join(parts[count:])


def _kind(words: str) -> str:
    """The words without what differs between messages of one kind: names in quotes, numbers and lists of them."""
    return _LIST.sub("#", _NUMBER.sub("#", _QUOTED.sub("''", words)))
