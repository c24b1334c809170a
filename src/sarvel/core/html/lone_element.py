"""Conditions of a selector on an element itself and on its ancestors: most rules can be judged without the page's tree."""

from __future__ import annotations

import functools
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal, TypeAlias

if TYPE_CHECKING:
    from cssselect2 import ElementWrapper
    from cssselect2.compiler import CompiledSelector
    from cssselect2.parser import CombinedSelector, CompoundSelector

Answer: TypeAlias = Literal["yes", "no", "perhaps"]


@dataclass(frozen=True)
class Reach:
    """One selector of a list, and its minimum conditions.

    Attributes:
        compiled: the selector, to be tested on an element.
        own: its last compound, without pseudo-classes, to be tested on an element that is alone.
        alone: whether that is all of it.
        around: classes and ids that it asks of other elements.
        of_part: whether it means a pseudo-element.
    """

    compiled: CompiledSelector
    own: CompiledSelector
    alone: bool
    around: frozenset[str]
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
        around = frozenset(_named(tree.left)) if isinstance(tree, CombinedSelector) else frozenset()
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


def means(reach: Reach, element: ElementWrapper, text: str) -> Answer:
    """Tells whether a selector means an element, as far as the element alone and the words of its page tell.

    Args:
        element: the element, alone.
    """
    if not reach.own.test(element) or not all(word in text for word in reach.around):
        return "no"
    return "yes" if reach.alone else "perhaps"
