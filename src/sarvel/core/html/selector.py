"""Selectors that state which images of pages a slot takes: conditions on the img or element, and on its ancestors.

Selectors Level 4, sections 5 to 7: a type, classes, an id, attributes with or without a value; section 15.1: such compounds one
after another, with white space between, for descendants. Templates are no trees, so there are no others.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from sarvel.core.html.tags import Tag

_TYPE = re.compile(r"[A-Za-z][\w-]*|\*")
_PART = re.compile(
    r"""\.(?P<class>[\w-]+)|\#(?P<id>[\w-]+)"""
    r"""|\[\s*(?P<name>[\w:-]+)\s*(?:=\s*(?:"(?P<double>[^"]*)"|'(?P<single>[^']*)'|(?P<bare>[\w-]+))\s*)?\]"""
)


class SelectorError(ValueError):
    """A text that is no selector of one img."""


@dataclass(frozen=True)
class Selector:
    """A selector of images.

    Attributes:
        css: as written.
        type: the element's name in lower case; "" for any.
        classes: that an image must have.
        said: attributes that it must have, in lower case, and their values; None for any value.
        around: selectors of its ancestors, from the outside inwards.
    """

    css: str
    type: str
    classes: frozenset[str]
    said: tuple[tuple[str, str | None], ...]
    around: tuple[Selector, ...] = ()

    def matches(self, tag: Tag, ancestors: Sequence[Tag] = ()) -> bool:
        """Tells whether it means this element.

        Args:
            ancestors: the start tags that it is in, from the outside inwards; only needed if `around` says something.
        """
        return self._is(tag) and _stand_within(self.around, ancestors)

    def _is(self, tag: Tag) -> bool:
        if self.type not in ("", tag.name):
            return False
        values = tag.values()
        return self.classes <= set(values.get("class", values.get("classname", "")).split()) and all(
            name in values and (value is None or values[name].strip() == value) for name, value in self.said
        )


def _stand_within(around: Sequence[Selector], ancestors: Sequence[Tag]) -> bool:
    """Tells whether ancestors match some selectors in order; the innermost that matches each leaves most for the next."""
    left = list(ancestors)
    for selector in reversed(around):
        while left and not selector.matches(left[-1]):
            left.pop()
        if not left:
            return False
        left.pop()
    return True


@functools.lru_cache(maxsize=4096)
def parse_selector(css: str) -> Selector:
    """Reads a selector.

    Raises:
        SelectorError: it is not one, or one that no tag tells by itself.
    """
    text, compounds = css.strip(), []
    at = 0
    while at < len(text):
        compound, end = _compound(text, at)
        if end == at:
            break
        compounds.append(compound)
        at = len(text) - len(text[end:].lstrip())
        if at == end:
            break
    if not compounds or at < len(text):
        raise SelectorError(
            f'\'{css}\' is not a supported selector; write one such as "img.wide", "[width=\'300\']" or ".cards img"'
        )
    return replace(compounds[-1], css=css, around=tuple(compounds[:-1]))


def _compound(text: str, at: int) -> tuple[Selector, int]:
    """The compound selector that begins at an offset, and where it ends; the same offset if none begins there."""
    classes: set[str] = set()
    said: list[tuple[str, str | None]] = []
    start, named = at, _TYPE.match(text, at)
    at = named.end() if named else at
    while found := _PART.match(text, at):
        at = found.end()
        if found["class"]:
            classes.add(found["class"])
        elif found["id"]:
            said.append(("id", found["id"]))
        else:
            values = (found[form] for form in ("double", "single", "bare"))
            said.append((found["name"].lower(), next((value.strip() for value in values if value is not None), None)))
    type_ = named.group().lower().replace("*", "") if named else ""
    return Selector(text[start:at], type_, frozenset(classes), tuple(said)), at
