"""Conditions of a selector on an element itself and on its ancestors: most rules can be judged without the page's tree."""

from __future__ import annotations

import functools
import html
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal, TypeAlias

if TYPE_CHECKING:
    from cssselect2 import ElementWrapper
    from cssselect2.compiler import CompiledSelector
    from cssselect2.parser import CombinedSelector, CompoundSelector

Answer: TypeAlias = Literal["yes", "no", "perhaps"]

Names: TypeAlias = frozenset[str]
"""Runs of letters, digits, `_` and `-`; of a page, all its plain classes and ids are among them."""

_NAME = re.compile(r"[\w-]+")


@dataclass(frozen=True)
class Reach:
    """One selector of a list, and its minimum conditions.

    Attributes:
        compiled: the selector, to be tested on an element.
        own: its last compound, without pseudo-classes, to be tested on an element that is alone.
        alone: whether that is all of it.
        around: plain classes and ids that it asks of other elements.
        of_part: whether it means a pseudo-element.
    """

    compiled: CompiledSelector
    own: CompiledSelector
    alone: bool
    around: Names
    of_part: bool = False


TOO_DEEP = (RecursionError, MemoryError, SyntaxError)
"""Errors of selectors of hundreds of parts, which are compiled by way of Python's own compiler, and of pages as deep."""


def reaches(css: str) -> Iterable[Reach]:
    """The selectors of a list, without those of pseudo-elements; none if one of them is unknown, as a browser does."""
    return (one for one in every_reach(css) if not one.of_part)


@functools.lru_cache(maxsize=16384)  # more than any page's stylesheets have
def every_reach(css: str) -> tuple[Reach, ...]:
    """The selectors of a list, also those of pseudo-elements."""
    from cssselect2 import SelectorError
    from cssselect2.compiler import CompiledSelector
    from cssselect2.parser import CombinedSelector, parse

    try:
        parsed = [(one, CompiledSelector(one)) for one in parse(css)]
    except (SelectorError, *TOO_DEEP):
        return ()
    found = []
    for one, compiled in parsed:
        tree = one.parsed_tree
        last = tree.right if isinstance(tree, CombinedSelector) else tree
        plain = [part for part in last.simple_selectors if type(part).__name__ in _PLAIN]
        alone = tree is last and len(plain) == len(last.simple_selectors)
        if not alone:
            last.simple_selectors = plain
            one.parsed_tree = last
        own = compiled if alone else CompiledSelector(one)
        names = _named(tree.left) if isinstance(tree, CombinedSelector) else set()
        around = frozenset(filter(_NAME.fullmatch, names))
        found.append(Reach(compiled, own, alone, around, bool(one.pseudo_element)))
    return tuple(found)


_PLAIN = frozenset({"LocalNameSelector", "ClassSelector", "IDSelector", "AttributeSelector", "NamespaceSelector"})


def _named(tree: CombinedSelector | CompoundSelector) -> set[str]:
    """Classes and ids that must be there for a selector to hold."""
    from cssselect2.parser import ClassSelector, CombinedSelector, IDSelector

    if isinstance(tree, CombinedSelector):
        return _named(tree.left) | _named(tree.right)
    names = set()
    for part in tree.simple_selectors:
        if isinstance(part, ClassSelector):
            names.add(part.class_name)
        elif isinstance(part, IDSelector):
            names.add(part.ident)
    return names


def lone(name: str, attributes: Mapping[str, str]) -> ElementWrapper:
    """An element that is in nothing, by its name and attributes in lower case."""
    from xml.etree.ElementTree import Element

    from cssselect2 import ElementWrapper

    return ElementWrapper.from_html_root(Element(name, dict(attributes)))


def names_in(text: str) -> Names:
    """The names in the text of a page."""
    return frozenset(_NAME.findall(html.unescape(text)))


def means(reach: Reach, element: ElementWrapper, names: Names) -> Answer:
    """Tells whether a selector means an element, as far as the element alone and the names in its page tell.

    Args:
        element: the element, alone.
    """
    if not (reach.around <= names and reach.own.test(element)):
        return "no"
    return "yes" if reach.alone else "perhaps"
