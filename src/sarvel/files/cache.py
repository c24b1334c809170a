"""The cache: files that were asked for, on disk, within a limit; several servers may share one.

A file is called by its fingerprint, which tells everything that it is made from, so that none is ever out of date. One whose
encoder's number has not been searched yet is called otherwise, and gives way to the one with the right number.
"""

from __future__ import annotations

import contextlib
import os
import re
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.core.edition.rendition import Rendition
from sarvel.files.atomic import PART

if TYPE_CHECKING:
    from filelock import FileLock

_LEFT = 0.9  # of the limit that a sweep leaves, so that not every file that comes makes another one necessary
_YOUNG = 10.0  # s within which a file was asked for, and is not taken away from under anyone who did
_ABANDONED = 600.0  # s after which a half-written file was left by a server that was killed
_LOCKS = "locks"
_NAME = re.compile(r"[0-9a-f]{16,}\.(?:first\.)?\w+\Z")


@dataclass(frozen=True)
class Swept:
    """What a sweep left and took.

    Attributes:
        left: bytes.
    """

    left: int
    gone: int


@dataclass(frozen=True)
class Cache:
    """A folder of files.

    Attributes:
        folder: the folder; files lie in folders within it, by the first letters of their names.
        limit: bytes.
    """

    folder: Path
    limit: int

    def name(self, rendition: Rendition, *, first: bool) -> str:
        """The name of a file, below the folder.

        Args:
            first: whether its encoder's number has not been searched for yet.
        """
        ending = rendition.name.rpartition(".")[2]
        return f"{rendition.fingerprint[:2]}/{rendition.fingerprint}{'.first' if first else ''}.{ending}"

    def read(self, rendition: Rendition, *, first: bool) -> bytes | None:
        """The bytes of a file, which counts as used now; None if it is not there."""
        file = self.folder / self.name(rendition, first=first)
        try:
            content = file.read_bytes()
        except OSError:
            return None
        self.used([file])
        return content or None

    def has(self, rendition: Rendition) -> bool:
        """Tells whether a file is there with the right number."""
        return (self.folder / self.name(rendition, first=False)).is_file()

    def drop_first(self, rendition: Rendition) -> None:
        """Removes the file whose number was not searched for, now that there is a better one."""
        with contextlib.suppress(OSError):
            (self.folder / self.name(rendition, first=True)).unlink(missing_ok=True)

    def used(self, files: Iterable[Path]) -> None:
        """Records that files were used now; the least recently used are deleted first."""
        for file in files:
            with contextlib.suppress(OSError):
                os.utime(file)

    def claim(self, rendition: Rendition) -> FileLock | None:
        """Takes a file for this server to make; None if another one makes it. The lock of a killed server is free again."""
        from filelock import FileLock, Timeout

        place = self.folder / _LOCKS / f"{rendition.fingerprint}.lock"
        with contextlib.suppress(OSError):
            place.parent.mkdir(parents=True, exist_ok=True)
        lock = FileLock(place, thread_local=False, fallback_to_soft=False)
        try:
            lock.acquire(timeout=0)
        except Timeout:
            return None
        except (OSError, NotImplementedError):  # some network drives lock nothing: then each server makes its own
            return lock
        return lock

    def give_back(self, claimed: FileLock) -> None:
        """Ends a claim."""
        with contextlib.suppress(OSError):
            Path(claimed.lock_file).unlink(missing_ok=True)
        claimed.release()

    def sweep(self, in_memory: Iterable[Rendition] = ()) -> Swept:
        """Deletes the least recently used files until the limit is kept, and half-written files of killed servers.

        Args:
            in_memory: files that are served from memory, and so are in use though no one reads them.
        """
        self.used(self.folder / self.name(one, first=False) for one in in_memory)
        found, now = list(self._files()), time.time()
        for place, stat in [*found, *_those_in(self.folder / _LOCKS)]:
            if (place.name.startswith(PART) or place.parent.name == _LOCKS) and now - stat.st_mtime > _ABANDONED:
                _remove(place)
        kept = [(stat.st_mtime, stat.st_size, place) for place, stat in found if not place.name.startswith(PART)]
        total, gone = sum(size for _, size, _ in kept), 0
        if total <= self.limit:
            return Swept(total, 0)
        for used, size, place in sorted(kept):
            if total <= self.limit * _LEFT or now - used < _YOUNG:
                break
            _remove(place)
            total, gone = total - size, gone + 1
        return Swept(total, gone)

    def _files(self) -> Iterator[tuple[Path, os.stat_result]]:
        """Files, also half-written ones, in folders of two letters."""
        with contextlib.suppress(OSError):
            for folder in self.folder.iterdir():
                if len(folder.name) == 2 and not folder.is_symlink():
                    yield from _those_in(folder)


def _those_in(folder: Path) -> Iterator[tuple[Path, os.stat_result]]:
    """The cache's own files in a folder; no others that someone put there."""
    with contextlib.suppress(OSError):
        for place in folder.iterdir():
            if _NAME.match(place.name) or place.name.startswith(PART):
                with contextlib.suppress(OSError):
                    yield place, place.lstat()


def _remove(place: Path) -> None:
    with contextlib.suppress(OSError):
        place.unlink(missing_ok=True)
