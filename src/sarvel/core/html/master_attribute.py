"""The attribute of a woven img that keeps the author's `src`, with the mark of the block behind it.

    src="masters/boat.jpg"   data-woven="masters/boat.jpg#0f3c…"     the author's; the same, set aside
    :src="boat"              data-woven-bound="boat#0f3c…"
    src={boat}               data-woven={`${boat}#0f3c…`}

A call of the component has no mark, and keeps the words as they are in `data-master`.
"""

from __future__ import annotations

import re

from sarvel.core.html.tags import Attribute, Tag

MARK = "data-woven"
MASTERS = {"data-master": "src", MARK: "src", f"{MARK}-bound": ":src", f"{MARK}-v-bind": "v-bind:src"}
"""Attributes that hold the author's `src`, and the author's names of them."""

_MARKED = re.compile(r"#(?P<mark>[0-9a-f]*)(?P<end>`\}|[\"']?)\Z")
_BEGIN, _END = "{`${", "}"


def master_of(tag: Tag) -> str | None:
    """The words by which the author of a woven img names its file; None if it is not woven."""
    found = next((found for name in MASTERS if (found := tag.get(name))), None)
    return author_value(found) if found else None


def author_value(attribute: Attribute) -> str:
    """The value of an attribute, less the mark in it."""
    return unmarked(attribute.value)[0] if is_marked(attribute.name) else attribute.value


def mark_in(tag: Tag) -> str | None:
    """The mark of a woven img; None if it has none."""
    found = next((found for name in MASTERS if is_marked(name) and (found := tag.get(name))), None)
    return unmarked(found.raw or "")[1] if found else None


def is_marked(name: str) -> bool:
    """Tells whether an attribute of this name holds a mark."""
    return name.lower() in MASTERS and name.lower().startswith(MARK)


def marked(behind: str, mark: str) -> str:
    """The text of the author's attribute behind its name, with a mark."""
    before, code = behind.partition("{")[::2]
    if before.strip() == "=" and not code.startswith("{"):
        return f"{before}{_BEGIN}{code.removesuffix('}')}{_END}#{mark}`}}"
    quote = behind[-1:] if behind[-1:] in ('"', "'") else ""
    return f"{behind.removesuffix(quote)}#{mark}{quote}"


def unmarked(behind: str) -> tuple[str, str | None]:
    """The text as it was, and the mark; None if it has none."""
    found = _MARKED.search(behind)
    if found is None:
        return behind, None
    text = behind[: found.start()]
    if found["end"] == "`}":
        return text.replace(_BEGIN, "{", 1), found["mark"]
    return text + found["end"], found["mark"]
