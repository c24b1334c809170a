"""Finished markup: a woven block less the attributes by which it is found and taken back. For pages that are only published."""

from __future__ import annotations

import re

from sarvel.core.html.dialect import Dialect
from sarvel.core.html.master_attribute import MARK, MASTERS
from sarvel.core.html.tags import COMPONENT
from sarvel.pages.restore.blocks import WAS
from sarvel.pages.restore.set_aside import ASIDE

_NAMES = frozenset({"data-sarvel", *MASTERS})

_KEPT = re.compile(
    rf"""/\*woven:.*?#[0-9a-f]+\*/|<!--woven:.*?#[0-9a-f]+-->|, "{MARK}": "(?:[^"\\]|\\.)*\"""", re.DOTALL
)


def finished(block: str, dialect: Dialect) -> str:
    """A woven block without them. A link that says nothing else goes; calls of a component need all their attributes."""
    if not block.startswith("<"):
        return _KEPT.sub("", block)  # in a stylesheet, in Markdown or JSON
    parts, at = [], 0
    for tag in dialect.tags_of_fragment(block, None):
        if tag.closing or tag.name == COMPONENT.lower():
            continue
        ours = [
            one for one in tag.attributes if one.name.lower() in _NAMES or one.name.lower().startswith((WAS, ASIDE))
        ]
        if tag.name == "link" and len(ours) == len(tag.attributes):
            parts.append(block[at : tag.start].rstrip())
            at = tag.end
        for one in ours if at <= tag.start else ():
            parts.append(block[at : one.start].rstrip())
            at = one.end
    return "".join([*parts, block[at:]])
