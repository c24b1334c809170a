"""Tags of Markdown with components: import lines and expressions in braces stand among it, and its tags are those of scripts."""

from __future__ import annotations

import heapq
import re
from collections.abc import Iterator

from sarvel.core.html.markdown import Markdown, blanked, read_markdown
from sarvel.core.html.tags import Tag, Wanted, is_call, tags
from sarvel.core.html.template_code import braces

# Statements of a module are no part of what a fence holds (CommonMark 0.31, section 4.5), which may show the same.
_MODULE_OR_FENCE = re.compile(
    r"^ {0,3}(?P<fence>`{3,}|~{3,})[^\n]*$.*?(?:^ {0,3}(?P=fence)[`~]*[ \t]*$|\Z)|^(?:import|export)\b.*?(?=^[ \t]*$|\Z)",
    re.MULTILINE | re.DOTALL,
)
_COMMENT = re.compile(r"\{/\*.*?\*/\}", re.DOTALL)


def markdown_script_tags(text: str, only: Wanted | None) -> Iterator[Tag]:
    """Yields the tags of Markdown with components, its own images among them, in order.

    Args:
        only: the elements to look for; None for all.
    """
    read = _read(text)
    expressions = list(_expressions(read.plain))
    images = [] if only is not None and "img" not in only.names else read.images
    outside = [one for one in images if not any(start <= one.start < end for start, end in expressions)]
    return heapq.merge(script_markup_tags(read.plain, only), outside, key=lambda tag: tag.start)


def outline(text: str) -> tuple[str, ...]:
    """The parts of such a text that its lines decide on, as paragraphs, in order."""
    return _read(text).outline


def _read(text: str) -> Markdown:
    modules = (found for found in _MODULE_OR_FENCE.finditer(text) if not found["fence"])
    hidden = blanked(text, [found.span() for found in (*modules, *_COMMENT.finditer(text))])
    return read_markdown(hidden, components=True)


def script_markup_tags(text: str, only: Wanted | None) -> Iterator[Tag]:
    """Yields the tags of markup in which braces hold expressions; a name with a capital letter is a component, no element."""
    for tag in tags(text, only=only, code=braces, skip=braces, stop=r"\{"):
        if is_call(tag) or not text[tag.start + 1 + tag.closing].isupper():
            yield tag


def _expressions(text: str) -> Iterator[tuple[int, int]]:
    """Start and end offsets of expressions in braces."""
    at = 0
    while (start := text.find("{", at)) >= 0:
        at = max(braces(text, start), start + 1)
        if at > start + 1:
            yield start, at
