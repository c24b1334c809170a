"""Marks on the tags of a page that is served to a browser, so that each box is known to belong to a tag of the page's text."""

from __future__ import annotations

import re
from collections.abc import Iterable

_NAME = re.compile(r"<[A-Za-z][^\s/>]*")


def with_places(text: str, starts: Iterable[int], attribute: str) -> str:
    """A page in which tags have their number as an attribute.

    Args:
        starts: offsets of the tags, each with a name behind its `<`; the first is number 0.
    """
    parts, at = [], 0
    for start, number in sorted((start, number) for number, start in enumerate(starts)):
        found = _NAME.match(text, start)
        if found:
            parts += [text[at : found.end()], f' {attribute}="{number}"']
            at = found.end()
    return "".join([*parts, text[at:]])
