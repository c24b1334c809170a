"""Lists of selectors, found by a word that an element must have for one of them to mean it."""

from __future__ import annotations

import functools
import re
from collections.abc import Iterable, Iterator
from typing import TYPE_CHECKING

from sarvel.core.html.lone_element import Names

if TYPE_CHECKING:
    from cssselect2 import ElementWrapper

_UNSURE = re.compile("[|&\ue000-\ue07f]")  # what makes the end of a selector hard to tell
_LEFT = re.compile(r"""[][()"']""")  # the same, where only what is in brackets was taken out
_STRING = re.compile(r""""[^"\\]*"|'[^'\\]*'""")
_ESCAPE = re.compile(r"\\(?:([0-9a-f]{1,6})\s?|(.)|$)", re.IGNORECASE | re.DOTALL)
_HIDDEN = {code: 0xE000 + code for code in range(128)}  # where ASCII that is escaped stands: for private use
_LAST = 0x10FFFF  # the last code point
_SHOWN = {there: code for code, there in _HIDDEN.items()}
_BRACKETS = re.compile(r"\[[^\]]*\]|\((?:[^()]|\((?:[^()]|\([^()]*\))*\))*\)")
_STATE = re.compile(r"::?[\w-]+")
_COMBINED = re.compile(r"[\s>+~]+")
_NAMED = re.compile(r"[.#][^.#]+")
_PLAIN_NAME = re.compile(r"[.#]([\w-]+)")


class Index:
    """Lists of selectors by a word that an element must have: few are compiled, which is what takes time."""

    def __init__(self, lists: Iterable[str]) -> None:
        """Sorts them."""
        self._near: dict[str, list[tuple[int, str, Names]]] = {}
        for number, css in enumerate(lists):
            for word, needed in _words(css):
                self._near.setdefault(word, []).append((number, css, needed))

    def near(self, element: ElementWrapper, names: Names | None = None) -> list[str]:
        """The lists that may mean an element, in order.

        Args:
            names: of its page; None if they are not known.
        """
        words = ["", element.local_name.lower(), f"#{element.id}", *(f".{name}" for name in element.classes)]
        near = (one for word in words for one in self._near.get(word, ()))
        found = {number: css for number, css, needed in near if names is None or needed <= names}
        return [css for _, css in sorted(found.items())]


@functools.lru_cache(maxsize=16384)  # more than any page's stylesheets have
def _words(selectors: str) -> tuple[tuple[str, Names], ...]:
    return tuple(_words_of(selectors))


def _words_of(selectors: str) -> Iterator[tuple[str, Names]]:
    """For each selector of a list a word that an element must have: `.class`, `#id` or its name; "" if that is not certain.

    With it are the plain classes and ids that the page must have.
    """
    plain = _ESCAPE.sub(_hidden, selectors) if "\\" in selectors else selectors
    plain = _BRACKETS.sub("", _STRING.sub("", plain))
    if _UNSURE.search(selectors) or _LEFT.search(plain):
        yield "", frozenset()
        return
    for selector in plain.split(","):
        last = _STATE.sub("", _COMBINED.split(selector.strip())[-1])
        named = _NAMED.findall(last)
        word = named[-1] if named else last.lower() if last != "*" else ""
        yield word.translate(_SHOWN), frozenset(_PLAIN_NAME.findall(selector))


def _hidden(escape: re.Match[str]) -> str:
    """The character that an escape means (CSS Syntax 3, section 4.3.7); one of ASCII hidden, as part of a name."""
    code = int(escape[1], 16) if escape[1] else ord(escape[2] or "\ufffd")
    return chr(_HIDDEN.get(code, min(code, _LAST)))
