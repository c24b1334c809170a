"""Portions of a plan's images, which keep the memory of a run small."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from sarvel.core.edition.compose import masters_of
from sarvel.core.model import Master, Slot
from sarvel.files.ledger import Ledger
from sarvel.pages.read.asks import Page
from sarvel.pipeline.page_sums import Pair, pairs_named_on
from sarvel.pipeline.site import RequestedImages, Site, composed_safely

PORTION = 1000
"""Masters that are worked out together: some 20 MB."""


def portions(
    wanted: Sequence[tuple[str, str]],
    slots: Mapping[str, Slot],
    masters: Mapping[str, Master],
    size: Callable[[], int],
) -> Iterator[list[tuple[str, str]]]:
    """Portions of pictures, at least one, the most wanted first: eager images before lazy ones.

    All pictures of a master are in one portion, and so are those of masters that share a crop: a format is given up, and its
    files removed, by what all of them need.

    Args:
        wanted: slot name and master key of pictures.
        masters: what the plan says of masters, by key.
        size: asked before each portion: masters in it, >= 1. Only ties make it larger.
    """
    heads: dict[str, str] = {}
    for pair in wanted:
        if pair[1] in masters:
            _tie(heads, masters_of([pair], masters))
    groups: dict[str, list[tuple[str, str]]] = {}
    for pair in sorted(wanted, key=lambda pair: slots[pair[0]].loading != "eager"):
        groups.setdefault(_head(heads, pair[1]), []).append(pair)
    portion: list[tuple[str, str]] = []
    keys, most = 0, size()
    for group in groups.values():
        if keys and keys + 1 > most:
            yield portion
            portion, keys, most = [], 0, size()
        portion += group
        keys += len({key for _, key in group})
    if portion or not wanted:
        yield portion


def _tie(heads: dict[str, str], keys: Sequence[str]) -> None:
    """Puts masters into one group."""
    first = _head(heads, keys[0])
    for key in keys[1:]:
        heads[_head(heads, key)] = first


def _head(heads: dict[str, str], key: str) -> str:
    """Root of this master's group."""
    while heads.get(key, key) != key:
        key = heads[key]
    return key


@dataclass
class Parts:
    """The wanted images, composed in parts; if one portion holds them all, only once.

    Each method raises PlanError where the plan would write where it may not.

    Attributes:
        whole: the site, if it is one portion, and composed already.
    """

    asked: RequestedImages
    ledger: Ledger
    as_it_stands: bool = False
    whole: Site | None = None

    def by_masters(
        self, wanted: Sequence[Pair] | None = None, size: Callable[[], int] = lambda: PORTION
    ) -> Iterator[Site]:
        """Parts of some masters each, and of all pages.

        Args:
            wanted: the pictures of the parts; None for all.
            size: as for `portions`.
        """
        if wanted is None and self.whole:
            yield self.whole
            return
        pairs = self.asked.wanted if wanted is None else wanted
        order = {pair: number for number, pair in enumerate(pairs)}
        for portion in portions(pairs, self.asked.plan.slots, self.asked.plan.masters, size):
            yield self._composed(self.asked, sorted(portion, key=order.__getitem__))

    def by_pages(self) -> Iterator[Site]:
        """Parts of some pages each, with the masters that these show."""
        if self.whole is None and _masters(self.asked.wanted) <= PORTION:
            self.whole = self._composed(self.asked, self.asked.wanted)
        if self.whole:
            yield self.whole
            return
        for pages, wanted in _by_page(self.asked):
            yield self._composed(replace(self.asked, pages=pages), wanted)

    def _composed(self, asked: RequestedImages, wanted: Sequence[Pair]) -> Site:
        return composed_safely(asked, wanted, self.ledger, as_it_stands=self.as_it_stands)


def _by_page(asked: RequestedImages) -> Iterator[tuple[tuple[Page, ...], tuple[Pair, ...]]]:
    wanted = set(asked.wanted)
    pages: list[Page] = []
    pairs: dict[Pair, None] = {}
    for page in asked.pages:
        mine = dict.fromkeys(pair for pair in sorted(pairs_named_on(page)) if pair in wanted)
        if pages and _masters([*pairs, *mine]) > PORTION:
            yield tuple(pages), tuple(pairs)
            pages, pairs = [], {}
        pages.append(page)
        pairs |= mine
    yield tuple(pages), tuple(pairs)


def _masters(pairs: Iterable[Pair]) -> int:
    return len({key for _, key in pairs})
