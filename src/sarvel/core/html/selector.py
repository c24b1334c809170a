"""Selectors that say which images of pages a slot takes: one compound selector of CSS, on the img or element itself.

Selectors Level 4, sections 5 to 7: a type, classes, an id, attributes with or without a value. What an image stands in is not
looked at, for templates are no trees.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from sarvel.core.html.tags import Tag

_PART = re.compile(
    r"""(?P<type>^[A-Za-z][\w-]*|^\*)|\.(?P<class>[\w-]+)|\#(?P<id>[\w-]+)"""
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
    """

    css: str
    type: str
    classes: frozenset[str]
    said: tuple[tuple[str, str | None], ...]

    def matches(self, tag: Tag) -> bool:
        """Tells whether it means this element."""
        if self.type not in ("", tag.name):
            return False
        values = tag.values()
        return self.classes <= set(values.get("class", values.get("classname", "")).split()) and all(
            name in values and (value is None or values[name].strip() == value) for name, value in self.said
        )


def parse_selector(css: str) -> Selector:
    """Reads a selector.

    Raises:
        SelectorError: it is none, or one of more than an img.
    """
    classes: set[str] = set()
    said: list[tuple[str, str | None]] = []
    at, text, type_ = 0, css.strip(), ""
    while found := _PART.match(text[at:] if at else text):
        if found["type"]:
            type_ = found["type"].lower().replace("*", "")
        elif found["class"]:
            classes.add(found["class"])
        elif found["id"]:
            said.append(("id", found["id"]))
        elif found["name"]:
            values = (found[form] for form in ("double", "single", "bare"))
            said.append((found["name"].lower(), next((value.strip() for value in values if value is not None), None)))
        elif at:
            break
        at += found.end()
    if not text or at < len(text):
        raise SelectorError(
            f"'{css}' is no selector of one element; write one such as \"img.wide\" or \"[width='300']\""
        )
    return Selector(css, type_, frozenset(classes), tuple(said))
