"""The folder of renditions: its files, their sizes, and removal of files."""

from __future__ import annotations

import contextlib
import os
import stat
from collections.abc import Callable, Collection, Container, Iterable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.core.edition.compose import Edition
from sarvel.errors import OutputError, cure_of
from sarvel.files.atomic import write_whole
from sarvel.files.batches import batches
from sarvel.files.ledger import Ledger, MadeFile

if TYPE_CHECKING:
    from sarvel.files.storage.stored_output import StoredOutput

_AT_ONCE = 1000  # names that are looked up together


class Sender:
    """What takes files to where they are published. Those of a folder of this machine are there already."""

    def __call__(self, files: Collection[MadeFile]) -> None:
        """Sends files that were written in the folder; returns at once."""

    @property
    def left(self) -> int:
        """How many are on their way."""
        return 0

    def finish(self, advance: Callable[[int], object]) -> None:
        """Waits until all are there.

        Raises:
            StorageError: some were not taken; they are kept.
        """


@dataclass(eq=False)
class OutputFolder:
    """A folder of renditions.

    Attributes:
        place: where its files go from there, if that is object storage.
    """

    folder: Path
    place: StoredOutput | None = None

    def __str__(self) -> str:
        """What messages call it."""
        return str(self.folder)

    def names(self) -> Iterator[str]:
        """The names of all files in it, in any order.

        Raises:
            OutputError: it cannot be read.
        """
        with self._reading(), os.scandir(self.folder) as entries:
            yield from (entry.name for entry in entries if entry.is_file())

    def sizes(self, names: Iterable[str]) -> dict[str, int]:
        """Bytes of those of some files that exist, by name.

        Raises:
            OutputError: it cannot be read.
        """
        sizes = {}
        folder = f"{self.folder}{os.sep}"
        for name in names:
            with self._reading():
                seen = os.stat(folder + name)  # noqa: PTH116 - a million of them, and a Path takes longer than the question
                if stat.S_ISREG(seen.st_mode):
                    sizes[name] = seen.st_size
        return sizes

    def read(self, name: str) -> bytes:
        """The bytes of a file.

        Raises:
            OSError: it cannot be read.
        """
        return (self.folder / name).read_bytes()

    def file(self, name: str) -> Path:
        """A file to read the bytes of a rendition from."""
        return self.folder / name

    def publish(self, name: str, content: bytes) -> None:
        """Writes a file that is no rendition.

        Raises:
            OutputError: it cannot be written.
        """
        write_whole(self.folder / name, content)

    def arrived(self, files: Iterable[MadeFile]) -> None:
        """Takes note of files that another program brought to where they are published."""

    def left_behind(self, ledger: Ledger) -> list[MadeFile]:  # noqa: ARG002 - see the other one
        """Files that an earlier run made and did not send."""
        return []

    @contextlib.contextmanager
    def sending(self) -> Iterator[Sender]:
        """What takes files to where they are published, for the length of the block."""
        yield Sender()

    def remove(self, names: Iterable[str]) -> None:
        """Removes files from it; missing ones are skipped.

        Raises:
            OutputError: one cannot be removed.
        """
        failed: list[tuple[str, OSError]] = []
        for name in names:
            try:
                (self.folder / name).unlink(missing_ok=True)
            except OSError as error:
                failed.append((name, error))
        for name, problem in failed:
            raise OutputError.at(
                self.folder / name, f"cannot be removed ({problem.strerror})", cure_of(problem)
            ) from problem

    def discard(self, names: Iterable[str]) -> None:
        """Takes files out of it, such as those of formats that do not pay; what cannot be removed stays."""
        for some in batches(names, _AT_ONCE):
            with contextlib.suppress(OutputError):
                self.remove(some)

    @contextlib.contextmanager
    def _reading(self) -> Iterator[None]:
        try:
            yield
        except (FileNotFoundError, NotADirectoryError):
            return
        except OSError as error:
            raise OutputError.at(self.folder, f"cannot be read ({error.strerror})", cure_of(error)) from error


def sizes_of(edition: Edition, output: OutputFolder) -> dict[str, int]:
    """Bytes of the existing renditions of an Edition, by name.

    Raises:
        OutputError: the folder cannot be read.
    """
    return output.sizes(edition.files())


def weights_of(edition: Edition, output: OutputFolder, ledger: Ledger) -> dict[str, int]:
    """Known bytes of renditions, by name: under this name or another of the same fingerprint."""
    wanted = {name: one.fingerprint for name, one in edition.files().items()}
    known = ledger.files(wanted)
    weights = {name: file.size for name, file in known.items()}
    unknown = [name for name in wanted if name not in weights]
    alike = ledger.alike(wanted[name] for name in unknown)
    weights |= {name: alike[wanted[name]][-1].size for name in unknown if wanted[name] in alike}
    return weights | output.sizes(name for name in unknown if name not in weights)


def _is_text(name: str) -> bool:
    """Tells whether a name is one that we could have written: those of other programs need not be UTF-8."""
    return not any("\ud800" <= letter <= "\udfff" for letter in name)


def prune(wanted: Container[str], output: OutputFolder, ledger: Ledger, named: Container[str]) -> list[str]:
    """Removes renditions that are wanted no more; only files that the ledger knows as its own.

    Args:
        wanted: names of files that are to be there.
        named: files that pages still name; they stay.

    Returns:
        Their names.

    Raises:
        OutputError: one cannot be removed.
    """
    gone: list[str] = []
    for names in batches(output.names(), _AT_ONCE):
        others = [name for name in names if _is_text(name) and name not in wanted and name not in named]
        gone += ledger.files(others)
    gone.sort()
    output.remove(gone)
    return gone
