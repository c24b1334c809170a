"""Files that are kept in memory: those used last, within a limit."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable

from sarvel.core.edition.rendition import Rendition
from sarvel.server.answers import CachedFile

_LARGEST = 8  # of the limit a file may take no more than the share of one in so many


class Memory:
    """Files by fingerprint."""

    def __init__(self, limit: int) -> None:
        """Begins empty.

        Args:
            limit: bytes of files together.
        """
        self._limit, self._bytes = limit, 0
        self._entries: OrderedDict[str, tuple[Rendition, CachedFile]] = OrderedDict()

    def get(self, fingerprint: str) -> CachedFile | None:
        """The file of a fingerprint; None if it is not kept."""
        found = self._entries.get(fingerprint)
        if found is None:
            return None
        self._entries.move_to_end(fingerprint)
        return found[1]

    def keep(self, rendition: Rendition, entry: CachedFile) -> None:
        """Keeps a file in the place of an earlier one of its fingerprint, and drops others if there is no room."""
        before = self._entries.pop(rendition.fingerprint, None)
        self._bytes -= len(before[1].content) if before else 0
        if len(entry.content) > self._limit // _LARGEST:
            return
        self._entries[rendition.fingerprint] = (rendition, entry)
        self._bytes += len(entry.content)
        while self._bytes > self._limit:
            _, (_, gone) = self._entries.popitem(last=False)
            self._bytes -= len(gone.content)

    def final(self) -> Iterable[Rendition]:
        """The kept files that are final."""
        return [rendition for rendition, entry in self._entries.values() if entry.is_final]
