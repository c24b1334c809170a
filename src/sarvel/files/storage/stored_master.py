"""A master in object storage: downloaded once to a cache of limited size on this machine."""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
import time
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from sarvel.files.atomic import write_whole

_YOUNG = 60.0  # s within which a master was asked for, and is not taken away from under anyone who reads it
_NAME = re.compile(r"[0-9a-f]{32}(?:\.|\Z)")
_LEFT = 0.9  # of the limit that is left, so that not every master that comes makes another one go


@dataclass(frozen=True)
class StoredMaster:
    """A master in its present version in a store; pure data.

    Attributes:
        size: its bytes; 0 if it is not there.
        version: as for the store's entry; "" if it is not there.
        cache: the folder that it is fetched to.
        limit: bytes that the masters in that may have together.
    """

    url: str
    key: str
    size: int
    version: str
    cache: Path
    limit: int

    @property
    def is_listed(self) -> bool:
        """Whether the store's listing had it."""
        return bool(self.size or self.version)

    def fetched(self) -> Path:
        """A file with its bytes. Another version of it has another name, so that none is ever out of date.

        Raises:
            StorageError: it cannot be fetched.
            OutputError: the cache cannot be written.
        """
        said = "\0".join((self.url, self.key, str(self.size), self.version))
        name = hashlib.blake2b(said.encode(), digest_size=16).hexdigest()
        file = self.cache / f"{name}{PurePosixPath(self.key).suffix}"
        with contextlib.suppress(OSError):
            if file.stat().st_size == self.size:
                os.utime(file)
                return file
        from sarvel.files.storage.store import Store

        write_whole(file, Store(self.url).get(self.key))
        _bound(self.cache, self.limit)
        return file


def _bound(cache: Path, limit: int) -> None:
    """Deletes the least recently used ones until the rest weighs less than the limit. Others' files stay."""
    there: list[tuple[float, int, Path]] = []
    with contextlib.suppress(OSError), os.scandir(cache) as entries:
        for entry in entries:
            if not _NAME.match(entry.name):
                continue
            with contextlib.suppress(OSError):
                there.append((entry.stat().st_mtime, entry.stat().st_size, Path(entry.path)))
    weight = sum(size for _, size, _ in there)
    if weight <= limit:
        return
    for asked, size, file in sorted(there):
        if weight <= limit * _LEFT or time.time() - asked < _YOUNG:
            break
        with contextlib.suppress(OSError):
            file.unlink()
            weight -= size
