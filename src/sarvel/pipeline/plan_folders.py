"""The places of a plan: where its masters are and its renditions go, on this machine or in object storage."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from sarvel.core.address.on_request import CACHE_NAME
from sarvel.core.patterns import matches
from sarvel.encode.codecs import CODECS
from sarvel.encode.masters import MasterFile
from sarvel.files.ledger import Stamp
from sarvel.files.output_folder import OutputFolder
from sarvel.pages.read.local_files import each_matching, is_file
from sarvel.pages.read.scan import is_image
from sarvel.plan.read import Plan

_MASTERS = "masters"
"""The folder in the cache that masters are fetched to."""


@dataclass(eq=False)
class MastersFolder:
    """A folder of masters."""

    folder: Path

    def file(self, key: str) -> MasterFile:
        """A master, whether it is there or not."""
        return self.folder / key

    def place(self, key: str) -> str:
        """What the ledger knows a master by."""
        return str(self.folder / key)

    def stamp(self, key: str) -> Stamp | None:
        """What changes whenever a master does; or None."""
        file = self.folder / key
        if not is_file(file):
            return None
        stat = file.stat()
        return Stamp(stat.st_size, stat.st_mtime_ns)

    def images(self, pattern: str) -> list[str]:
        """The keys of images that a pattern means, in order."""
        found = each_matching(self.folder, pattern)
        keys = {file.relative_to(self.folder).as_posix() for file in found if is_image(file)}
        return sorted(keys, key=lambda key: key.split("/"))


class StoredMasters(MastersFolder):
    """A folder of masters in object storage, as one listing describes it."""

    def __init__(self, folder: Path, url: str, cache: Path, limit: int) -> None:
        """Lists it.

        Args:
            folder: where pages take it to be.
            limit: bytes that those may have together.

        Raises:
            StorageError: it cannot be listed.
        """
        from sarvel.files.storage.store import Store

        super().__init__(folder)
        self._url, self._cache, self._limit = url.rstrip("/"), cache, limit
        self._there = Store(url).entries()

    def file(self, key: str) -> MasterFile:
        """Like StoredMasters'."""
        from sarvel.files.storage.stored_master import StoredMaster

        entry = self._there.get(key)
        size, version = (entry.size, entry.version) if entry else (0, "")
        return StoredMaster(self._url, key, size, version, self._cache, self._limit)

    def place(self, key: str) -> str:
        """Like StoredMasters'."""
        return f"{self._url}/{key}"

    def stamp(self, key: str) -> Stamp | None:
        """Like StoredMasters'."""
        entry = self._there.get(key)
        return Stamp(entry.size, f"version {entry.version}") if entry else None

    def images(self, pattern: str) -> list[str]:
        """Like StoredMasters'."""
        return sorted(key for key in self._there if is_image(Path(key)) and matches(pattern, key))


def masters_of_plan(plan: Plan) -> MastersFolder:
    """The masters of a plan.

    Raises:
        StorageError: they are in object storage, and cannot be listed.
    """
    if plan.masters_url is None:
        return MastersFolder(plan.masters_folder)
    cache = plan.folder / CACHE_NAME / _MASTERS
    return StoredMasters(plan.masters_folder, plan.masters_url, cache.absolute(), plan.masters_kept)


def output_of_plan(plan: Plan) -> OutputFolder:
    """The renditions of a plan; of object storage nothing is listed yet."""
    if plan.output_url is None:
        return OutputFolder(plan.output)
    from sarvel.files.storage.output_store import OutputStore
    from sarvel.files.storage.stored_output import StoredOutput

    media_types = {codec.ending: codec.media_type for codec in CODECS.values()}
    return OutputStore(plan.output, StoredOutput(plan.output_url, media_types))
