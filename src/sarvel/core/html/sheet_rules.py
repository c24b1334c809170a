"""The rules of one stylesheet, by the elements that they mean: sorted once for all pages that link to it."""

from __future__ import annotations

import contextlib
import functools
import re
import sys
from collections.abc import Container, Iterable, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING

from sarvel.core.css.sheet import Declaration, Sheet
from sarvel.core.html.lone_element import TOO_DEEP, Names, every_reach, means, reaches

if TYPE_CHECKING:
    from cssselect2 import ElementWrapper

_BY_PLACE = re.compile(r"[>+~]|:(?:first|last|only|nth|empty|has)\b|\bpicture\b", re.IGNORECASE)
_BY_SIBLING = re.compile(r"[+~]|:has\b|\bof\b", re.IGNORECASE)
_INTRICATE = re.compile("[|&\ue000-\ue07f]")  # what makes the end of a selector hard to tell
_STRING = re.compile(r""""[^"\\]*"|'[^'\\]*'""")
_ESCAPE = re.compile(r"\\(?:([0-9a-f]{1,6})\s?|(.)|$)", re.IGNORECASE | re.DOTALL)
_HIDDEN = {code: 0xE000 + code for code in range(128)}  # where ASCII that is escaped stands: for private use
_SHOWN = {there: code for code, there in _HIDDEN.items()}
_BRACKETS = re.compile(r"\[[^\]]*\]|\((?:[^()]|\((?:[^()]|\([^()]*\))*\))*\)")
_STATE = re.compile(r"::?[\w-]+")
_COMBINED = re.compile(r"[\s>+~]+")
_NAMED = re.compile(r"[.#][^.#]+")
_PLAIN_NAME = re.compile(r"[.#]([\w-]+)")
_PHYSICAL = {  # CSS Logical Properties 1, section 4.1, in horizontal writing
    "inline-size": "width",
    "max-inline-size": "max-width",
    "min-inline-size": "min-width",
    "block-size": "height",
    "max-block-size": "max-height",
    "min-block-size": "min-height",
}

BOX = frozenset({"width", "height", "min-width", "min-height", "max-width", "max-height", "aspect-ratio", "object-fit"})
"""Properties of an element's own box that rules ask for."""

Numbered = tuple[int, Declaration]
"""A declaration and its number in the stylesheet."""

Weight = tuple[int, int, int]
"""The specificity of a selector (Selectors 4, section 17)."""


def physical(name: str) -> str:
    """The name of a property in horizontal writing."""
    return _PHYSICAL.get(name, name)


class SheetRules:
    """The rules of a stylesheet; sorted once something is asked."""

    def __init__(self, sheet: Sheet) -> None:
        """Prepares to sort."""
        self._sheet = sheet
        self._setting: dict[frozenset[str], _Index] = {}

    @functools.cached_property
    def by_selector(self) -> Mapping[str, Sequence[Numbered]]:
        """All declarations, by the selector of their rule."""
        found: dict[str, list[Numbered]] = {}
        for number, declaration in enumerate(self._sheet.declarations):
            found.setdefault(declaration.selector, []).append((number, declaration))
        return found

    def meant(self, element: ElementWrapper, names: Names) -> Mapping[str, Weight]:
        """The selectors of the rules that mean an element, and how much each weighs.

        Args:
            names: of the element's page; see `names_in`.
        """
        weights: dict[str, Weight] = {}
        with contextlib.suppress(*TOO_DEEP):
            for css in self._all.near(element, names):
                for reach in reaches(css):
                    if reach.compiled.test(element):
                        weights[css] = max(reach.compiled.specificity, weights.get(css, (0, 0, 0)))
        return weights

    def meant_by_place(self, element: ElementWrapper, names: Names, *, is_image: bool) -> Sequence[str]:
        """The selectors that mean an element by its place, those of pseudo-elements too, in their order.

        Args:
            names: of the element's page.
            is_image: whether it is an img that may be put in a picture; for others, only what its siblings decide counts.
        """
        with contextlib.suppress(*TOO_DEEP):
            near = (self._by_place if is_image else self._by_sibling).near(element, names)
            return [css for css in near if any(one.compiled.test(element) for one in every_reach(css))]
        return ()

    def told_alone(
        self, element: ElementWrapper, names: Names, properties: frozenset[str]
    ) -> Iterator[tuple[Weight, Numbered]] | None:
        """The declarations of some properties that mean an element that is in nothing; None if an ancestor may decide.

        Args:
            names: of the page.
            properties: their physical names.
        """
        weights: dict[str, Weight] = {}
        for css in self._that_set(properties).near(element, names):
            for reach in reaches(css):
                answer = means(reach, element, names)
                if answer == "perhaps":
                    return None
                if answer == "yes":
                    weights[css] = max(reach.compiled.specificity, weights.get(css, (0, 0, 0)))
        return (
            (weight, one)
            for css, weight in weights.items()
            for one in self.by_selector[css]
            if is_one_of(one[1], properties)
        )

    @functools.cached_property
    def by_place(self) -> Sequence[str]:
        """The selectors that mean elements by their place: parents, siblings, positions, what is in a picture."""
        return list(filter(_BY_PLACE.search, self.by_selector))

    @functools.cached_property
    def _all(self) -> _Index:
        return _Index(self.by_selector)

    @functools.cached_property
    def _by_place(self) -> _Index:
        return _Index(self.by_place)

    @functools.cached_property
    def _by_sibling(self) -> _Index:
        return _Index(filter(_BY_SIBLING.search, self.by_place))

    def _that_set(self, properties: frozenset[str]) -> _Index:
        if properties not in self._setting:
            some = (css for css, all_ in self.by_selector.items() if any(is_one_of(one, properties) for _, one in all_))
            self._setting[properties] = _Index(some)
        return self._setting[properties]


class _Index:
    """Lists of selectors by a word that an element must have: few are compiled, which is what takes time."""

    def __init__(self, lists: Iterable[str]) -> None:
        """Sorts them."""
        self._near: dict[str, list[tuple[int, str, Names]]] = {}
        for number, css in enumerate(lists):
            for word, needed in _words(css):
                self._near.setdefault(word, []).append((number, css, needed))

    def near(self, element: ElementWrapper, names: Names) -> list[str]:
        """The lists that may mean an element, in order.

        Args:
            names: of its page.
        """
        words = ["", element.local_name.lower(), f"#{element.id}", *(f".{name}" for name in element.classes)]
        found = {number: css for word in words for number, css, needed in self._near.get(word, ()) if needed <= names}
        return [css for _, css in sorted(found.items())]


def _words(selectors: str) -> Iterator[tuple[str, Names]]:
    """For each selector of a list a word that an element must have: `.class`, `#id` or its name; "" if that is not certain.

    With it are the plain classes and ids that the page must have.
    """
    if _INTRICATE.search(selectors):
        yield "", frozenset()
        return
    plain = _ESCAPE.sub(_hidden, selectors) if "\\" in selectors else selectors
    for selector in _BRACKETS.sub("", _STRING.sub("", plain)).split(","):
        last = _STATE.sub("", _COMBINED.split(selector.strip())[-1])
        named = _NAMED.findall(last)
        word = named[-1] if named else last.lower() if last != "*" else ""
        yield word.translate(_SHOWN), frozenset(_PLAIN_NAME.findall(selector))


def _hidden(escape: re.Match[str]) -> str:
    """The character that an escape means (CSS Syntax 3, section 4.3.7); one of ASCII hidden, as part of a name."""
    code = int(escape[1], 16) if escape[1] else ord(escape[2] or "\ufffd")
    return chr(_HIDDEN.get(code, min(code, sys.maxunicode)))


def is_one_of(declaration: Declaration, properties: Container[str]) -> bool:
    """Tells whether a declaration sets one of some properties, by their physical names."""
    return physical(declaration.name) in properties


@functools.lru_cache(maxsize=64)
def rules_of(sheet: Sheet) -> SheetRules:
    """The rules of a stylesheet, the same object for the same one as long as it is among the last ones."""
    return SheetRules(sheet)
