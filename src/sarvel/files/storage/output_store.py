"""A folder of renditions in object storage: files are made in a folder of this machine, and leave it once they have arrived."""

from __future__ import annotations

import atexit
import contextlib
import tempfile
import threading
from collections.abc import Callable, Collection, Iterable, Iterator
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from dataclasses import dataclass, field
from pathlib import Path

from sarvel.errors import StorageError
from sarvel.files.batches import batches
from sarvel.files.ledger import Ledger, MadeFile
from sarvel.files.output_folder import OutputFolder, Sender
from sarvel.files.storage.stored_output import StoredOutput
from sarvel.notices import Kind, Notice

_THREADS = 16  # files on their way at one time
_MOST_REFUSED = 3  # files in a row that are refused, before no more are tried: it would go so for all of them
_LOOKED_UP = 1000  # names at a time


@dataclass(eq=False)
class OutputStore(OutputFolder):
    """A folder of renditions in object storage.

    Its content is known from one listing and from this run's uploads: names identify contents, so no file is read.

    Attributes:
        folder: where files are made, on this machine.
    """

    place: StoredOutput
    _listed: dict[str, int] | None = None
    _seen: tempfile.TemporaryDirectory[str] | None = None

    def __str__(self) -> str:
        """The URL."""
        return self.place.url

    def names(self) -> Iterator[str]:
        """Like OutputFolder's; from the listing."""
        yield from list(self._there())

    def sizes(self, names: Iterable[str]) -> dict[str, int]:
        """Like OutputFolder's; from the listing."""
        there = self._there()
        return {name: there[name] for name in names if name in there}

    def read(self, name: str) -> bytes:
        """Like OutputFolder's; downloaded if it is not here any more."""
        try:
            return (self.folder / name).read_bytes()
        except FileNotFoundError:
            if name not in self._there():
                raise
            try:
                return self.place.store.get(name)
            except StorageError as error:
                raise OSError(str(error)) from error

    def file(self, name: str) -> Path:
        """Like OutputFolder's; downloaded if it is not here any more, and kept until the program ends."""
        if (self.folder / name).is_file():
            return self.folder / name
        if self._seen is None:
            self._seen = tempfile.TemporaryDirectory(prefix="sarvel-")
            atexit.register(self._seen.cleanup)
        file = Path(self._seen.name, name)
        if not file.is_file():
            file.write_bytes(self.place.store.get(name))
        return file

    def remove(self, names: Iterable[str]) -> None:
        """Like OutputFolder's; from here and there."""
        names, there = list(names), self._there()
        super().remove(names)
        self.place.store.remove(name for name in names if name in there)
        for name in names:
            there.pop(name, None)

    def arrived(self, files: Iterable[MadeFile]) -> None:
        """Like OutputFolder's."""
        self._there().update((file.name, file.size) for file in files)

    def publish(self, name: str, content: bytes) -> None:
        """Writes a file that changes under its name."""
        self.place.publish(name, content)
        super().publish(name, content)

    def left_behind(self, ledger: Ledger) -> list[MadeFile]:
        """Like OutputFolder's; files that the ledger does not know are removed too, because they would be made again."""
        found: list[MadeFile] = []
        ours = (name for name in super().names() if self.place.is_rendition(name))
        for names in batches(sorted(ours), _LOOKED_UP):
            known, sizes = ledger.files(names), super().sizes(names)
            whole = [known[name] for name in names if name in known and known[name].size == sizes.get(name)]
            there = self.sizes(names)
            found += [file for file in whole if there.get(file.name) != file.size]
            super().remove(file.name for file in whole if there.get(file.name) == file.size)
            super().remove(name for name in names if name not in known)
        return found

    @contextlib.contextmanager
    def sending(self) -> Iterator[Sender]:
        """Sends files on several threads; if the block ends with an error, unsent files stay here for the next run."""
        pool = ThreadPoolExecutor(_THREADS)
        try:
            yield _Sending(self, pool)
        finally:
            pool.shutdown(wait=True, cancel_futures=True)

    def send(self, file: MadeFile) -> None:
        """Sends a file, and removes it here once it has arrived.

        Raises:
            StorageError: it was refused each time.
        """
        place = self.folder / file.name
        with contextlib.suppress(FileNotFoundError):  # two slots share it
            content = place.read_bytes()
            self.place.send(file.name, content)
            self.arrived([file])
            place.unlink(missing_ok=True)

    def _there(self) -> dict[str, int]:
        if self._listed is None:
            self._listed = {name: entry.size for name, entry in self.place.store.entries().items()}
        return self._listed


@dataclass
class _Sending(Sender):
    """Files on their way."""

    output: OutputStore
    pool: ThreadPoolExecutor
    _out: set[Future[bool]] = field(default_factory=set)
    _lock: threading.Lock = field(default_factory=threading.Lock)
    _refused: int = 0
    _in_a_row: int = 0
    _problem: StorageError | None = None

    def __call__(self, files: Collection[MadeFile]) -> None:
        """Sends files."""
        self._look()
        self._out.update(self.pool.submit(self._is_sent, file) for file in files)

    @property
    def left(self) -> int:
        """How many are on their way, or were refused."""
        return len(self._out) + self._refused

    def finish(self, advance: Callable[[int], object]) -> None:
        """Waits for all.

        Raises:
            StorageError: some were not taken; they are kept here.
        """
        while self._out:
            wait(self._out, return_when=FIRST_COMPLETED)
            advance(self._look())
        if self._refused:
            files = "file was" if self._refused == 1 else "files were"
            raise StorageError(
                *(self._problem.notices if self._problem else ()),
                Notice(
                    Kind.STORAGE,
                    str(self.output),
                    f"{self._refused} {files} not sent",
                    f"kept in {self.output.folder}, and sent by the next run",
                ),
            )

    def _is_sent(self, file: MadeFile) -> bool:
        """Sends a file; once some in a row were refused, none any more."""
        if self._in_a_row >= _MOST_REFUSED:
            return False
        try:
            self.output.send(file)
        except StorageError as error:
            with self._lock:
                self._problem, self._in_a_row = self._problem or error, self._in_a_row + 1
            return False
        self._in_a_row = 0
        return True

    def _look(self) -> int:
        """Records the outcome of finished uploads; returns their number."""
        done = {one for one in self._out if one.done()}
        self._out -= done
        self._refused += sum(not one.result() for one in done)
        return len(done)
