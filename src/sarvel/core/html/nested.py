"""Tags in templates whose code is elements with a prefix, which may are within a tag and within a value.

<img <c:if test="${wide}">class="wide"</c:if> src="<c:url value="/a.jpg"/>">
"""

from __future__ import annotations

import re
from collections.abc import Iterator

from sarvel.core.html.tags import Tag, Wanted, tags
from sarvel.core.html.template_code import closing, marked_code

_ELEMENT = re.compile(
    r"""</?[A-Za-z][\w.-]*:[\w.-]+(?:\s+[\w.:-]+\s*=\s*(?:"(?:[^"<]|<%.*?%>)*"|'(?:[^'<]|<%.*?%>)*'))*\s*/?>"""
)
_EXPRESSION = re.compile(r"[$#]\{(?:[^{}'\"]|'[^']*'|\"[^\"]*\")*\}")
_COMMENT_END = re.compile(r"--%>")


def code_with_elements(text: str, at: int) -> int:
    """Passes over code within a tag or a value: `<% … %>`, `${ … }`, and one tag of an element with a prefix."""
    if text.startswith("<%--", at) and (end := closing(text, at + 4, _COMMENT_END)) >= 0:
        return end
    if (end := marked_code(text, at)) > at:
        return end
    found = _ELEMENT.match(text, at) or _EXPRESSION.match(text, at)
    return found.end() if found else at


def element_tags(text: str, only: Wanted | None) -> Iterator[Tag]:
    """Yields the tags of a template with elements of code, in order.

    Args:
        only: the elements to look for; None for all.
    """
    return tags(text, only=only, code=code_with_elements, skip=_skipped, stop=r"\$\{")


def _skipped(text: str, at: int) -> int:
    """Passes over comments and code between tags; an element with a prefix is a tag as any other there."""
    return at if _ELEMENT.match(text, at) else code_with_elements(text, at)
