"""Calls of the component that has the markup of all pictures, in pages that are scripts, and its import.

    <img className="wide" src={boat} alt="The boat" />                                    the author's tag
    <SarvelPicture of="card/boat.jpg" className="wide" data-master={boat} alt="The boat" />   the same, as a call

All that the author writes stays where it is and reaches the img. Attributes that contradict the component's are set aside
as in a block (see `blocks`). Page by page, one whole line imports the component.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from sarvel.core.html.dialect import Dialect
from sarvel.core.html.front_matter import front_matter_end
from sarvel.core.html.tags import COMPONENT, line_end

CALLED_BY = ("of", "first")
"""Attributes of a call that are Sarvel's: the slot and master, and whether the image is the first to fetch. No img has these."""

_IMPORT = re.compile(
    rf"""^import[ \t]*\{{[ \t]*{COMPONENT}[ \t]*\}}[ \t]*from[ \t]*["'][^"'\r\n]*["'][ \t]*;?[ \t]*(?:\r\n|\r|\n|\Z)""",
    re.MULTILINE,
)
_BLANK = re.compile(r"[ \t]*(?:\r\n|\r|\n)")
# The text before the first statement of a module: comments, blank lines, and directives (ECMAScript, section 11.2.1).
_DIRECTIVE = r"""(?:"[^"\r\n]*"|'[^'\r\n]*')[ \t]*;?[ \t]*(?:\r\n|\r|\n)"""
_GAP = r"(?:\s|//[^\r\n]*|/\*(?:[^*]|\*(?!/))*\*/)*"
_HEAD = re.compile(rf"{_GAP}(?P<directives>(?:{_DIRECTIVE}{_GAP})*)")
_LAST_DIRECTIVE = re.compile(_DIRECTIVE)


@dataclass(frozen=True)
class ImportPlace:
    """The stretch of a page that its import takes, or would take."""

    start: int
    end: int

    def woven(self, page: str, path: str, dialect: Dialect) -> str:
        """The import, a whole line; in Markdown a blank line ends the statements of a module."""
        line = line_end(page)
        follows = page.startswith("import", self.end)
        return f'import {{ {COMPONENT} }} from "{path}";{line}{line if dialect.lines and not follows else ""}'


def import_place(page: str, dialect: Dialect) -> ImportPlace:
    """The import of the component if the page has it, else the place for one: before other imports, behind directives."""
    begin = front_matter_end(page) if dialect.lines else 0
    if found := _IMPORT.search(page):
        alone = dialect.lines and not page[begin : found.start()].strip()
        blank = _BLANK.match(page, found.end()) if alone else None
        return ImportPlace(found.start(), blank.end() if blank else found.end())
    head = _HEAD.match(page, begin)
    if head is None:  # pragma: no cover - it matches nothing at all, too
        raise AssertionError(page)
    if dialect.lines:
        place = begin + len(page[begin:]) - len(page[begin:].lstrip())
    elif page.startswith("import", head.end()):
        place = head.end()
    else:
        place = max((found.end() for found in _LAST_DIRECTIVE.finditer(page, *head.span("directives"))), default=0)
    return ImportPlace(place, place)
