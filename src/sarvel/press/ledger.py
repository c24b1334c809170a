"""The ledger: what was read and rendered before, so that nothing is done twice. Without it all is done again, and rightly."""

from __future__ import annotations

import contextlib
import json
import sqlite3
import time
from collections.abc import Iterable, Mapping
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Self

from sarvel.core.facts import MasterFacts

if TYPE_CHECKING:
    import os
    from types import TracebackType

FILE_NAME = "sarvel.ledger"

_VERSION = 1  # of the tables; a ledger of another version is begun anew
_TABLES = """
CREATE TABLE masters (path TEXT PRIMARY KEY, size INTEGER, changed INTEGER, facts TEXT) WITHOUT ROWID;
CREATE TABLE renditions (name TEXT PRIMARY KEY, bytes INTEGER, digest TEXT) WITHOUT ROWID;
CREATE TABLE findings (key TEXT PRIMARY KEY, finding TEXT) WITHOUT ROWID;
"""

# A file that was changed so shortly ago could be changed again within what the clock of the file system can tell apart.
_SETTLED_NS = 2_000_000_000


class Ledger:
    """A ledger, open. What fails in it is passed over: it only ever saves time.

    Findings are what was worked out at some cost: an encoder's number, a placeholder, a subject. Their keys tell everything
    that they depend on, so that a finding never grows old.
    """

    def __init__(self, file: Path | None = None, *, writes: bool = True) -> None:
        """Opens a ledger.

        Args:
            file: where it is; None, or one that cannot be opened, makes one that is forgotten.
            writes: whether it may be changed; if not, what is remembered is forgotten at the end.
        """
        self._file = file if writes else None
        self._database = self._opened(file) if file and (writes or file.is_file()) else None
        self._written = writes and self._database is not None
        if self._database is None or not writes:
            copy = sqlite3.connect(":memory:")
            with contextlib.suppress(sqlite3.Error):
                if self._database is not None:
                    self._database.backup(copy)
                    self._database.close()
            if not _is_ours(copy):
                copy.executescript(f"{_TABLES}PRAGMA user_version = {_VERSION}")
            self._database = copy

    def __enter__(self) -> Self:
        """The ledger."""
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        """Closes it."""
        self.close()

    def close(self) -> None:
        """Writes down what was remembered."""
        with contextlib.suppress(sqlite3.Error):
            self._open.commit()
        self._open.close()

    def master(self, file: Path, stat: os.stat_result) -> MasterFacts | None:
        """What was read of a master, if its file has not been touched since."""
        row = self._one("SELECT facts, size, changed FROM masters WHERE path = ?", str(file))
        if row is None or row[1:] != (stat.st_size, stat.st_mtime_ns):
            return None
        facts = json.loads(str(row[0]))
        return MasterFacts(**{**facts, "remarks": tuple(facts["remarks"])})

    def remember_master(self, file: Path, stat: os.stat_result, facts: MasterFacts) -> None:
        """Writes down what was read of a master, unless it changed a moment ago."""
        if time.time_ns() - stat.st_mtime_ns < _SETTLED_NS:
            return
        told = json.dumps({name: value for name, value in asdict(facts).items() if name != "found"})
        row = (str(file), stat.st_size, stat.st_mtime_ns, told)
        self._write("INSERT OR REPLACE INTO masters VALUES (?, ?, ?, ?)", [row])

    def finding(self, key: str) -> str | None:
        """What was found under a key."""
        row = self._one("SELECT finding FROM findings WHERE key = ?", key)
        return str(row[0]) if row else None

    def weights(self) -> dict[str, int]:
        """The bytes of every rendition that was made, by name; its file may be gone."""
        with contextlib.suppress(sqlite3.Error):
            return dict(self._open.execute("SELECT name, bytes FROM renditions"))
        return {}

    def remember(self, renditions: Iterable[tuple[str, int, str]], findings: Mapping[str, str]) -> None:
        """Writes down files, each by name, bytes and digest, and findings, by key."""
        self._write("INSERT OR REPLACE INTO renditions VALUES (?, ?, ?)", list(renditions))
        self._write("INSERT OR REPLACE INTO findings VALUES (?, ?)", list(findings.items()))
        with contextlib.suppress(sqlite3.Error):
            self._open.commit()

    @property
    def _open(self) -> sqlite3.Connection:
        if self._database is None:  # pragma: no cover - set for good when it is made
            raise AssertionError
        return self._database

    def _one(self, query: str, key: str) -> tuple[object, ...] | None:
        with contextlib.suppress(sqlite3.Error):
            row: tuple[object, ...] | None = self._open.execute(query, (key,)).fetchone()
            return row
        return None

    def _write(self, statement: str, rows: list[tuple[object, ...]]) -> None:
        with contextlib.suppress(sqlite3.Error):
            self._open.executemany(statement, rows)

    def _opened(self, file: Path) -> sqlite3.Connection | None:
        """The ledger of a file, begun anew if it is damaged or of another version; None if that cannot be."""
        for _ in range(2):
            with contextlib.suppress(sqlite3.Error, OSError):
                file.parent.mkdir(parents=True, exist_ok=True)
                database = sqlite3.connect(file, timeout=10)
                if _is_ours(database):
                    return database
                if self._file is None:
                    return None
                if not database.execute("SELECT 1 FROM sqlite_master").fetchone():
                    database.executescript(f"{_TABLES}PRAGMA user_version = {_VERSION}")
                    return database
                database.close()
            with contextlib.suppress(OSError):
                if self._file is not None:
                    file.unlink(missing_ok=True)
        return None


def _is_ours(database: sqlite3.Connection) -> bool:
    (version,) = database.execute("PRAGMA user_version").fetchone()
    return bool(version == _VERSION and database.execute("PRAGMA quick_check(1)").fetchone() == ("ok",))
