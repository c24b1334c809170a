"""Tags of a file in sections: one `template` with markup, and scripts, styles and sections of any other name next to it."""

from __future__ import annotations

import re
from collections.abc import Iterator

from sarvel.core.html.tags import Tag, Wanted, read_tag, tags
from sarvel.core.html.template_code import closing

_OPENING = re.compile(r"<!--|<[A-Za-z]")
_COMMENT_END = re.compile(r"-->")
_TEMPLATE = "template"


def section_tags(text: str, only: Wanted | None) -> Iterator[Tag]:
    """Yields the tags of the markup of a file in sections, in order. A name with a capital letter is a component, no element.

    Args:
        only: the elements to look for; None for all.
    """
    at = 0
    while found := _OPENING.search(text, at):
        if found.group() == "<!--":
            at = max(found.end(), closing(text, found.end(), _COMMENT_END))
            continue
        section = read_tag(text, found.start())
        if section is None:
            return
        at = section.end
        if section.name == _TEMPLATE and section.get("lang") is None:
            for tag in _markup(text, section, only):
                at = tag.end
                if tag.name != _TEMPLATE or only is None or _TEMPLATE in only.names:
                    yield tag
        elif not text.startswith("/>", section.end - 2):
            end = re.compile(rf"</{re.escape(section.name)}\s*>", re.IGNORECASE).search(text, section.end)
            at = end.end() if end else len(text)


def _markup(text: str, section: Tag, only: Wanted | None) -> Iterator[Tag]:
    """The tags of a section, its end tag last."""
    wanted = only and Wanted(only.names | {_TEMPLATE}, only.whole)
    depth = 1
    for tag in tags(text, section.end, only=wanted):
        if tag.name == _TEMPLATE and not text.startswith("/>", tag.end - 2):
            depth += -1 if tag.closing else 1
        if not text[tag.start + 1 + tag.closing].isupper():
            yield tag
        if not depth:
            return
