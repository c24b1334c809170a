"""Whether stylesheets could lay out a picture around an img, tell the img in it from the img alone, or give it edges.

Of a page, the elements that are open at an img are known, and their siblings are not. So selectors are widened: conditions on
siblings and on states count as met.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, TypeAlias

from sarvel.core.css.sheet import Declaration, declarations_of
from sarvel.core.html.lone_element import lone, reaches
from sarvel.core.html.tags import Tag

if TYPE_CHECKING:
    from cssselect2 import ElementWrapper

# Properties that change nothing that is seen of an inline box without a text or a background of its own.
_HARMLESS = re.compile(
    r"--|(?:box-sizing|clear|color|cursor|fill|stroke|transition|animation-(?!name)|user-select|pointer-events|scroll-|outline)"
    r"|-(?:webkit|moz|ms|o)-|text-(?:rendering|size-adjust|decoration|shadow)|(?:width|height|(?:max|min)-(?:width|height))$"
)
# Values that properties have without any rule.
_NEUTRAL = re.compile(
    r"(?:(?:0(?:[a-z]+|%)?|none|auto|baseline|inherit|unset|initial|revert|static|normal|visible|inline|100%|1)(?:\s+|$))+",
    re.IGNORECASE,
)
_FLOWS = re.compile(r"(?:block|inline|inline-block|list-item|none|flow-root|table-cell|inherit|initial|unset|revert)$")
_EDGES = re.compile(r"(?:padding|border)(?!-radius|-collapse|-spacing|-color|-style)|aspect-ratio$")
_NO_EDGE = re.compile(r"(?:(?:0(?:[a-z]+|%)?|none|inherit|unset|initial|auto)(?:\s|$))", re.IGNORECASE)

_PSEUDO_ELEMENT = re.compile(r"::|:(?:before|after|first-line|first-letter)\b", re.IGNORECASE)
_STATE = re.compile(r"(^|[\s>+~,(])?:[\w-]+(?:\((?:[^()]|\((?:[^()]|\([^()]*\))*\))*\))?")
_SIBLING = re.compile(r"[^\s>+~,]+\s*[+~]\s*")
# HTML, section 13.1.2.4: elements whose end tag may be left out, so that they seem open for too long.
_ENDLESS = frozenset({"p", "li", "dt", "dd", "option", "tr", "td", "th", "thead", "tbody", "tfoot", "rt", "rp"})

Element: TypeAlias = tuple[str, tuple[tuple[str, str], ...]]
"""An element's name and attributes."""

_PICTURE: tuple[Element, ...] = (("picture", ()),)
_SOURCE: tuple[Element, ...] = (("picture", ()), ("source", ()))


def element_of(tag: Tag) -> Element:
    """A tag's element."""
    return tag.name, tuple(tag.values().items())


@dataclass(frozen=True)
class Spot:
    """A place in a page.

    Attributes:
        around: the elements that are open there, the innermost last.
        text: the page, for the names in selectors.
    """

    around: tuple[Element, ...]
    text: str

    def may_mean(self, css: str, *inner: Element) -> bool:
        """Tells whether a selector may mean an element here.

        Args:
            inner: elements within those around, the one in question last; none if the innermost around is.
        """
        path = (*self.around, *inner)
        if not any(all(word in self.text for word in words) for words in _wanted(css, path[-1])):
            return False
        ended = (*(one for one in path[:-1] if one[0] not in _ENDLESS), path[-1])
        return any(one.compiled.test(_leaf(way)) for one in reaches(_widened(css)) for way in {path, ended})


def shows_pictures(declarations: Iterable[Declaration], place: Spot) -> bool:
    """Tells whether a rule may lay out a picture or a source in a place."""
    return any(
        not (_HARMLESS.match(one.name) or _NEUTRAL.fullmatch(one.value.strip()))
        and any(place.may_mean(one.selector, *inner) for inner in (_PICTURE, _SOURCE))
        for one in declarations
    )


def arranges(declarations: Sequence[Declaration], place: Spot) -> bool:
    """Tells whether the parent may lay its children out by another way than as blocks and lines: flex, grid and the like."""
    displays = [one for one in declarations if one.name == "display" and not _flows(one)]
    for count in range(len(place.around), 0, -1):
        parent = Spot(place.around[:count], place.text)
        name, attributes = parent.around[-1]
        own = declarations_of(dict(attributes).get("style") or "")
        if any(one.name == "display" and not _flows(one) for one in own):
            return True
        if any(parent.may_mean(one.selector) for one in displays):
            return True
        if name not in _ENDLESS:
            return False
    return True  # its parent is not known


def _flows(one: Declaration) -> bool:
    return _FLOWS.match(one.value.strip().lower()) is not None


def has_edges(declarations: Iterable[Declaration], place: Spot, image: Tag) -> bool:
    """Tells whether a rule may give an img a padding, a border or a ratio."""
    element = element_of(image)
    own = declarations_of(dict(element[1]).get("style") or "")
    return any(map(_is_edge, own)) or any(
        _is_edge(one) and place.may_mean(one.selector, element) for one in declarations
    )


def _is_edge(one: Declaration) -> bool:
    return bool(_EDGES.match(one.name)) and not _NO_EDGE.match(one.value.strip())


@functools.lru_cache(maxsize=65536)
def _wanted(css: str, element: Element) -> frozenset[frozenset[str]]:
    """For each selector of a list whose last compound means an element, the classes and ids that it asks of others."""
    alone = lone(element[0], dict(element[1]))
    return frozenset(one.around for one in reaches(_widened(css)) if one.own.test(alone))


@functools.lru_cache(maxsize=8192)
def _widened(css: str) -> str:
    """A selector list without states and siblings; of one that cannot be read, and means no pseudo-element, all elements."""
    if _PSEUDO_ELEMENT.search(css):
        css = ",".join(part for part in css.split(",") if not _PSEUDO_ELEMENT.search(part))
    wide = _SIBLING.sub("", _STATE.sub(lambda found: "" if found[1] is None else f"{found[1]}*", css))
    return wide if not css or reaches(wide) else "*"


@functools.lru_cache(maxsize=1024)
def _leaf(path: tuple[Element, ...]) -> ElementWrapper:
    """The last of some elements, each in the one before."""
    from xml.etree.ElementTree import Element as Node

    from cssselect2 import ElementWrapper

    root = node = Node(path[0][0], dict(path[0][1]))
    for name, attributes in path[1:]:
        child = Node(name, dict(attributes))
        node.append(child)
        node = child
    *_, leaf = ElementWrapper.from_html_root(root).iter_subtree()
    return leaf
