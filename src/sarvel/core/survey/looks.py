"""Which pages of a site of many are worth opening in a browser: at most a few of each kind.

Images have one look if they are in elements of the same names and classes, under the same stylesheets. A page is of a known kind
if all its looks are on enough pages before it.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Hashable, Mapping, Sequence
from typing import TypeAlias, TypeVar

from sarvel.core.html.ancestors import ancestors_of
from sarvel.core.html.dialect import Dialect
from sarvel.core.html.document import read_document, value_of
from sarvel.core.html.tags import Tag, classes_of

P = TypeVar("P", bound=Hashable)

_MOST_PAGES = 12  # that are all opened

Look: TypeAlias = tuple[str, ...]
"""What the rules go by that can affect an image: if it is equal, so are the widths, except for rules by number or neighbour."""


def look_of(tag: Tag, ancestors: Sequence[Tag]) -> Look:
    """The look of an image.

    Args:
        ancestors: the start tags that it is in, from the outside inwards.
    """
    said = [value_of(tag, name) or "" for name in ("id", "style", "width", "height", "sizes")]
    return (*said, *(" ".join([one.name, *classes_of(one)]) for one in (tag, *ancestors)))


def looks_in(text: str, dialect: Dialect) -> set[Look]:
    """The looks of a page's images, each with the page's stylesheets; of a page without images that of its stylesheets."""
    page = read_document(text, dialect)
    around = ancestors_of(text, dialect, [image.tag.start for image in page.images])
    sheets = (*(address.rpartition("/")[2] for address in page.sheets), *(css for _, css in page.styles))
    return {(*sheets, *look_of(image.tag, around[image.tag.start])) for image in page.images} or {sheets}


def worth_opening(pages: Mapping[P, Collection[Hashable]], enough: int) -> set[P]:
    """The pages to open: all; of many, those with a look that is not on enough pages before.

    Args:
        enough: on how many pages a look is to be seen.
    """
    if len(pages) <= _MOST_PAGES:
        return set(pages)
    counts: Counter[Hashable] = Counter()
    chosen = set()
    for page, shown in pages.items():
        if any(counts[one] < enough for one in shown):
            chosen.add(page)
            counts.update(set(shown))
    return chosen
