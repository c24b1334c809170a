"""Calls of partials in Markdown, where an engine has such: written for an image, and read as the image again.

    ![The boat](img/boat.jpg)                                                      the author's image
    {% include card/boat.jpg.html data-master="img/boat.jpg" alt="The boat" %}     the same, as a call

A call says all that its author wrote, so that the image can be restored from it alone. An image that says more, or
has another form, is never written as a call.
"""

from __future__ import annotations

import html
import re
from collections.abc import Iterator
from dataclasses import dataclass

from sarvel.core.html.tags import COMPONENT, Attribute, Tag
from sarvel.core.quoted import literal

CALL_FORM = r"^\{[{%][^{}\r\n]*(\{(partial|src|alt|title)\}[^{}\r\n]*)+[}%]\}$"
"""The form of the pattern of calls: one tag of the engine, with fields in braces."""

_CALL = re.compile(r"\{[{%][^{}\r\n]*[}%]\}")
_MASTER = re.compile(r'\bdata[-_]master\s*[=:]\s*"')
_SAID = re.compile(r'\b(data[-_]master|alt|title)\s*[=:]\s*"([^"]*)"')
_IMAGE = re.compile(r'!\[(?P<alt>[^\[\]\\\r\n]*)\]\((?P<src>[^\s()<>"\\]+)(?: "(?P<title>[^"\\\r\n]+)")?\)')


@dataclass(frozen=True)
class PartialCall:
    """How Markdown calls a partial.

    Attributes:
        pattern: a tag of the engine, with the fields {partial}, {src}, {alt} and {title}.
        ending: of the partials' file names.
    """

    pattern: str
    ending: str

    def of(self, image: str, alt: str | None, partial: str) -> str | None:
        """The call for an image; None if it could not be restored from it.

        Args:
            image: as its author wrote it.
            alt: its words as plain text.
            partial: the path of the partial, below the folder of partials.
        """
        found = _IMAGE.fullmatch(image)
        if found is None or found["alt"] != alt:
            return None
        said = {"partial": partial, **{name: literal(value or "") for name, value in found.groupdict().items()}}
        call = re.sub(r"\{(\w+)\}", lambda field: said[field.group(1)], self.pattern)
        return call if image_of(call) == image else None


def image_of(call: str) -> str:
    """The image that a call was written for."""
    said = {name: html.unescape(value) for name, value in _SAID.findall(call)}
    src = said.get("data-master", said.get("data_master", ""))
    title = f' "{said["title"]}"' if said.get("title") else ""
    return f"![{said.get('alt', '')}]({src}{title})"


def call_tags(text: str) -> Iterator[Tag]:
    """The calls in a Markdown text, in order, as tags in the short form with the attributes of an img."""
    for found in _CALL.finditer(text):
        if _MASTER.search(found.group()) and (image := _IMAGE.fullmatch(image_of(found.group()))):
            values = {"src": image["src"], "alt": image["alt"], "title": image["title"]}
            start, end = found.span()
            attributes = (Attribute(name, html.escape(value), start, end) for name, value in values.items() if value)
            yield Tag(COMPONENT.lower(), closing=False, attributes=tuple(attributes), start=start, end=end, short=True)
