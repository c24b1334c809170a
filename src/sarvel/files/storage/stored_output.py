"""Where renditions go in object storage, as data that can be sent to a worker."""

from __future__ import annotations

import functools
import time
from collections.abc import Mapping
from dataclasses import dataclass

from sarvel.errors import StorageError
from sarvel.files.storage.store import ASKED_AGAIN, KEPT_FOR_EVER, Store

_TRIES = 3  # of a file, next to those of the storage's own library
_PAUSE = 0.5  # s before another try, and twice as long before the next


@dataclass(frozen=True)
class StoredOutput:
    """A place for renditions in object storage.

    Attributes:
        media_types: what files are served as, by the ending of their names, without the point.
    """

    url: str
    media_types: Mapping[str, str]

    @property
    def store(self) -> Store:
        """The store; one for all threads of a process."""
        return _store(self.url)

    def is_rendition(self, name: str) -> bool:
        """Tells whether a file can be a rendition, by the ending of its name."""
        return name.rpartition(".")[2] in self.media_types

    def send(self, name: str, content: bytes) -> None:
        """Sends a rendition.

        Raises:
            StorageError: it was refused each time.
        """
        for trial in range(_TRIES):
            try:
                self.store.put(name, content, self.media_types[name.rpartition(".")[2]], KEPT_FOR_EVER)
            except StorageError as error:
                if trial == _TRIES - 1 or isinstance(error.__cause__, (PermissionError, FileNotFoundError)):
                    raise
                time.sleep(_PAUSE * 2**trial)
            else:
                return

    def publish(self, name: str, content: bytes) -> None:
        """Sends a stylesheet, which changes under its name.

        Raises:
            StorageError: it was refused.
        """
        self.store.put(name, content, "text/css", ASKED_AGAIN)


@functools.lru_cache(maxsize=4)
def _store(url: str) -> Store:
    return Store(url)
