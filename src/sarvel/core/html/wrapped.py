"""Whether stylesheets could lay out a picture around an img, tell the img in it from the img alone, or give it edges.

Of a page, the elements that are open at an img are known, and their siblings are not. So selectors are widened: conditions on
siblings and on states count as met.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING, TypeAlias

from sarvel.core.css.sheet import Declaration, declarations_of
from sarvel.core.html.lone_element import lone, reaches
from sarvel.core.html.selector_index import Index
from sarvel.core.html.tags import Tag

if TYPE_CHECKING:
    from cssselect2 import ElementWrapper
    from cssselect2.compiler import CompiledSelector

# Properties that change nothing that is seen of an inline box without a text or a background of its own.
_HARMLESS = re.compile(
    r"--|(?:box-sizing|clear|color|cursor|fill|stroke|transition|animation-(?!name)|user-select|pointer-events|scroll-|outline)"
    r"|-(?:webkit|moz|ms|o)-|text-(?:rendering|size-adjust|decoration|shadow)|(?:width|height|(?:max|min)-(?:width|height))$"
)
# Values that properties have without any rule.
_NEUTRAL = re.compile(
    r"(?:(?:0(?:[a-z]+|%)?|none|auto|baseline|unset|initial|revert|static|normal|visible|100%|1)(?:\s+|$))+",
    re.IGNORECASE,
)
_INHERITED = re.compile(r"font|line-height$|letter-|word-|white-space|text-|visibility$|list-|quotes$|direction$")
_FLOWS = re.compile(r"(?:block|inline|inline-block|list-item|none|flow-root|table-cell|inherit|initial|unset|revert)$")
_EDGES = re.compile(r"(?:padding|border)(?!-radius|-collapse|-spacing|-color)|aspect-ratio$")
_NO_EDGE = re.compile(r"(?:(?:0(?:[a-z]+|%)?|none|inherit|unset|initial|auto)(?:\s|$))", re.IGNORECASE)

_PSEUDO_ELEMENT = re.compile(r"(?<!\\):(?::|(?:before|after|first-line|first-letter)\b)", re.IGNORECASE)
_STATE = re.compile(r"(^|[\s>+~,(])?(?<!\\):[\w-]+(?:\((?:[^()]|\((?:[^()]|\([^()]*\))*\))*\))?")
_ATTRIBUTE = re.compile(r"\[\s*([\w-]+)")
_SIBLING = re.compile(r"[^\s>+~,]+\s*[+~]\s*")
# HTML, section 13.1.2.4: elements whose end tag may be left out, so that they seem open for too long.
_ENDLESS = frozenset({"p", "li", "dt", "dd", "option", "tr", "td", "th", "thead", "tbody", "tfoot", "rt", "rp"})

Element: TypeAlias = tuple[str, tuple[tuple[str, str], ...]]
"""An element's name and attributes."""

Chain: TypeAlias = tuple[Element, ...]
"""Elements, each within the one before."""

PICTURE: Element = ("picture", ())
SOURCE: Element = ("source", ())


def element_of(tag: Tag) -> Element:
    """A tag's element."""
    return tag.name, tuple(tag.values().items())


class Rules:
    """The selectors of some stylesheets' rules that matter to a picture around an img."""

    def __init__(self, declarations: Iterable[Declaration]) -> None:
        """Sorts them."""
        kinds: tuple[dict[str, None], ...] = ({}, {}, {})
        for one in declarations:
            for kind, is_one in zip(kinds, (_lays_out, _arranges, _is_edge), strict=True):
                if one.selector not in kind and is_one(one):
                    kind[one.selector] = None
        self._laying_out, self._arranging, self._edges = (_Selectors(tuple(kind)) for kind in kinds)

    def shows_picture(self, around: Chain) -> bool:
        """Tells whether a rule may lay out a picture, or a source in it, within some elements."""
        picture = (*around, PICTURE)
        return self._laying_out.may_mean(picture) or self._laying_out.may_mean((*picture, SOURCE))

    def arranges(self, around: Chain) -> bool:
        """Tells whether the innermost of some elements may lay its children out by another way than as blocks and lines."""
        for count in range(len(around), 0, -1):
            name, attributes = around[count - 1]
            if any(map(_arranges, declarations_of(dict(attributes).get("style") or ""))):
                return True
            if self._arranging.may_mean(around[:count]):
                return True
            if name not in _ENDLESS:
                return False
        return True  # its parent is not known

    def has_edges(self, around: Chain, image: Tag) -> bool:
        """Tells whether a rule may give an img within some elements a padding, a border or a ratio."""
        element = element_of(image)
        own = declarations_of(dict(element[1]).get("style") or "")
        return any(map(_is_edge, own)) or self._edges.may_mean((*around, element))


class _Selectors:
    """Selectors of one kind, and their answers so far."""

    def __init__(self, selectors: Sequence[str]) -> None:
        self._index = Index(selectors)
        self._asked = {"class", "id", *(name.lower() for css in selectors for name in _ATTRIBUTE.findall(css))}
        self._near: dict[Element, list[CompiledSelector]] = {}
        self._told: dict[Chain, bool] = {}

    def may_mean(self, chain: Chain) -> bool:
        """Tells whether one of them may mean the last of some elements."""
        # Images name many files, which hardly any selector asks for.
        chain = tuple((name, tuple(one for one in said if one[0] in self._asked)) for name, said in chain)
        if chain not in self._told:
            self._told[chain] = self._tested(chain)
        return self._told[chain]

    def _tested(self, chain: Chain) -> bool:
        last = chain[-1]
        if last not in self._near:
            alone = lone(last[0], dict(last[1]))
            near = (one for css in self._index.near(alone) for one in reaches(_widened(css)))
            self._near[last] = [one.compiled for one in near if one.own.test(alone)]
        ended = (*(one for one in chain[:-1] if one[0] not in _ENDLESS), last)
        leaves = [_leaf(way) for way in {chain, ended}] if self._near[last] else []
        return any(one.test(leaf) for one in self._near[last] for leaf in leaves)


def _lays_out(one: Declaration) -> bool:
    value = one.value.strip().lower()
    if one.name == "display":
        return value not in ("inline", "initial", "unset", "revert")
    if value == "inherit":
        return not (_INHERITED.match(one.name) or _HARMLESS.match(one.name))
    return not (_HARMLESS.match(one.name) or _NEUTRAL.fullmatch(value))


def _arranges(one: Declaration) -> bool:
    return one.name == "display" and not _FLOWS.match(one.value.strip().lower())


def _is_edge(one: Declaration) -> bool:
    return bool(_EDGES.match(one.name)) and not _NO_EDGE.match(one.value.strip())


@functools.lru_cache(maxsize=8192)
def _widened(css: str) -> str:
    """A selector list without states and siblings; of one that cannot be read, and means no pseudo-element, all elements."""
    if _PSEUDO_ELEMENT.search(css):
        css = ",".join(part for part in css.split(",") if not _PSEUDO_ELEMENT.search(part))
    wide = _SIBLING.sub("", _STATE.sub(lambda found: "" if found[1] is None else f"{found[1]}*", css))
    return wide if not css or any(True for _ in reaches(wide)) else "*"


def _leaf(path: Chain) -> ElementWrapper:
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
