"""The rules of one stylesheet, by the elements that they mean: sorted once for all pages that link to it."""

from __future__ import annotations

import contextlib
import functools
import re
from collections.abc import Container, Iterator, Mapping, Sequence
from typing import TYPE_CHECKING

from sarvel.core.css.sheet import Declaration, Sheet
from sarvel.core.html.lone_element import TOO_DEEP, Names, every_reach, means, reaches
from sarvel.core.html.selector_index import Index

if TYPE_CHECKING:
    from cssselect2 import ElementWrapper

_BY_PLACE = re.compile(r"[>+~]|:(?:first|last|only|nth|empty|has)\b|\bpicture\b", re.IGNORECASE)
_BY_SIBLING = re.compile(r"[+~]|:has\b|\bof\b", re.IGNORECASE)
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
        self._setting: dict[frozenset[str], Index] = {}

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
    def _all(self) -> Index:
        return Index(self.by_selector)

    @functools.cached_property
    def _by_place(self) -> Index:
        return Index(self.by_place)

    @functools.cached_property
    def _by_sibling(self) -> Index:
        return Index(filter(_BY_SIBLING.search, self.by_place))

    def _that_set(self, properties: frozenset[str]) -> Index:
        if properties not in self._setting:
            some = (css for css, all_ in self.by_selector.items() if any(is_one_of(one, properties) for _, one in all_))
            self._setting[properties] = Index(some)
        return self._setting[properties]


def is_one_of(declaration: Declaration, properties: Container[str]) -> bool:
    """Tells whether a declaration sets one of some properties, by their physical names."""
    return physical(declaration.name) in properties


@functools.lru_cache(maxsize=64)
def rules_of(sheet: Sheet) -> SheetRules:
    """The rules of a stylesheet, the same object for the same one as long as it is among the last ones."""
    return SheetRules(sheet)
