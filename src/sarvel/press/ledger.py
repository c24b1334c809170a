"""The ledger: what was read and rendered before, so that nothing is done twice. Without it all is done again, and rightly.

It is a file that others can damage, lock or replace. Each row carries a digest of itself, so that nothing false is ever
taken from it; a ledger with a false row is set aside and begun anew. What is remembered is written in short transactions,
none of which is open while anything else is done.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import shutil
import sqlite3
import time
from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict, astuple, dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Self

from sarvel.core.facts import MasterFacts

if TYPE_CHECKING:
    from types import TracebackType

FILE_NAME = "sarvel.ledger"
SET_ASIDE = ".damaged"
"""The ending of the name of a ledger that was set aside."""

_VERSION = 3  # of the tables; a ledger of another version is begun anew
_TABLES = """
CREATE TABLE masters (path TEXT PRIMARY KEY, size INTEGER, changed INTEGER, facts TEXT, digest TEXT) WITHOUT ROWID;
CREATE TABLE files (name TEXT PRIMARY KEY, bytes INTEGER, content TEXT, fingerprint TEXT, digest TEXT) WITHOUT ROWID;
CREATE TABLE findings (key TEXT PRIMARY KEY, finding TEXT, digest TEXT) WITHOUT ROWID;
"""

# A file that was changed so shortly ago could be changed again within what the clock of the file system can tell apart.
_SETTLED_NS = 2_000_000_000

_PATIENCE = 2.0  # seconds that another program may hold the ledger locked; our own runs do for some milliseconds

# What another file would not mend, since it is who else uses it or the disk: SQLite, "Result Codes"; of extended codes the
# last byte.
_OF_OTHERS = (
    sqlite3.SQLITE_BUSY,
    sqlite3.SQLITE_LOCKED,
    sqlite3.SQLITE_IOERR,
    sqlite3.SQLITE_FULL,
    sqlite3.SQLITE_NOMEM,
)

Row = tuple[object, ...]


@dataclass(frozen=True)
class MadeFile:
    """A file that was made.

    Attributes:
        name: its name in the folder of renditions.
        size: its bytes.
        content: digest of its bytes, in hexadecimal.
        fingerprint: digest of all that it was made from; files of one fingerprint hold the same bytes.
    """

    name: str
    size: int
    content: str
    fingerprint: str


class Ledger:
    """A ledger, open. What fails in it is told once and passed over: it only ever saves time.

    Findings are what was worked out at some cost: an encoder's number, a placeholder, a subject. Their keys tell everything
    that they depend on, so that a finding never grows old.
    """

    def __init__(
        self, file: Path | None = None, *, creates: bool = True, told: Callable[[str], None] = lambda _: None
    ) -> None:
        """Opens a ledger.

        Args:
            file: where it is; None, or one that cannot be opened, makes one that is forgotten.
            creates: whether the file is made if it is not there; if not, it is once there is a finding to keep.
            told: called with a line for the user where something is wrong with it.
        """
        self._file, self._told = file, told
        self._masters: dict[str, Row] = {}  # read of masters, by path, and not written down yet
        self._files: dict[str, MadeFile] | None = None  # as they were read last, with what was remembered since
        self._database = _in_memory()
        self._waits = file is not None and not creates and not file.exists()
        if file and not self._waits:
            self._open(file)

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
        self.remember([], {})
        self._database.close()

    def master(self, file: Path, stat: os.stat_result, key: str) -> MasterFacts | None:
        """The facts that were read of a master, if its file has not been touched since.

        Args:
            file: the master.
            stat: how its file is now.
            key: what the plan calls it now; it may have been called otherwise when it was read.
        """
        path = _as_text(file)
        known = self._masters.get(path)
        row = known or self._one("SELECT path, size, changed, facts, digest FROM masters WHERE path = ?", path)
        if row is None or row[1:3] != (stat.st_size, stat.st_mtime_ns):
            return None
        facts = json.loads(str(row[3]))
        return MasterFacts(**{**facts, "key": key, "remarks": tuple(facts["remarks"])})

    def remember_master(self, file: Path, stat: os.stat_result, facts: MasterFacts) -> None:
        """Writes down what was read of a master, unless it changed a moment ago; at the latest when the ledger is closed."""
        if time.time_ns() - stat.st_mtime_ns < _SETTLED_NS:
            return
        told = json.dumps({name: value for name, value in asdict(facts).items() if name not in ("key", "found")})
        self._masters[_as_text(file)] = (_as_text(file), stat.st_size, stat.st_mtime_ns, told)

    def finding(self, key: str) -> str | None:
        """The finding under a key; None if there is none."""
        row = self._one("SELECT key, finding, digest FROM findings WHERE key = ?", key)
        return str(row[1]) if row else None

    def findings(self, begin: str) -> dict[str, str]:
        """All findings whose keys begin so, by key."""
        rows = self._all(
            "SELECT key, finding, digest FROM findings WHERE key >= ? AND key < ?", begin, f"{begin}\U0010ffff"
        )
        return {str(key): str(finding) for key, finding, _ in rows}

    def files(self) -> dict[str, MadeFile]:
        """Every file that was ever made, by name; it may be gone."""
        if self._files is None:
            rows = self._all("SELECT name, bytes, content, fingerprint, digest FROM files")
            self._files = {
                str(name): MadeFile(str(name), int(str(size)), str(content), str(fingerprint))
                for name, size, content, fingerprint, _ in rows
            }
        return dict(self._files)

    def look_again(self) -> None:
        """Forgets what was read, for another run may have written since."""
        self._files = None

    def remember(self, files: Iterable[MadeFile], findings: Mapping[str, str]) -> None:
        """Writes down files that were made, and findings, by key."""
        if self._file and self._waits and findings:
            self._waits = False
            self._open(self._file)
        masters, self._masters = list(self._masters.values()), {}
        files = list(files)
        if self._files is not None:
            self._files |= {file.name: file for file in files}
        batches: list[tuple[str, list[Row]]] = [
            ("INSERT OR REPLACE INTO masters VALUES (?, ?, ?, ?, ?)", masters),
            ("INSERT OR REPLACE INTO files VALUES (?, ?, ?, ?, ?)", list(map(astuple, files))),
            ("INSERT OR REPLACE INTO findings VALUES (?, ?, ?)", list(findings.items())),
        ]
        if any(rows for _, rows in batches):
            self._write(batches)

    def _write(self, batches: Iterable[tuple[str, list[Row]]]) -> None:
        """Writes rows in one transaction, which ends at once."""
        try:
            self._database.execute("BEGIN IMMEDIATE")
            for statement, rows in batches:
                self._database.executemany(statement, [(*row, digest_of_row(row)) for row in rows])
            self._database.execute("COMMIT")
        except (sqlite3.Error, ValueError) as error:
            with contextlib.suppress(sqlite3.Error):
                self._database.execute("ROLLBACK")
            self._give_up(error)
            with contextlib.suppress(sqlite3.Error, ValueError):  # what can be remembered at least for this run
                for statement, rows in batches:
                    self._database.executemany(statement, [(*row, digest_of_row(row)) for row in rows])

    def _one(self, query: str, key: str) -> Row | None:
        found = self._all(query, key)
        return found[0] if found else None

    def _all(self, query: str, *values: str) -> list[Row]:
        """Rows of a query; none if the ledger is damaged, which is then set aside."""
        try:
            rows = self._database.execute(query, values).fetchall()
        except (sqlite3.Error, ValueError) as error:
            self._give_up(error)
            return []
        if all(row[-1] == digest_of_row(row[:-1]) for row in rows):
            return rows
        self._set_aside("a row is not what was written")
        return []

    def _open(self, file: Path) -> None:
        """Opens the ledger of a file; one that is damaged or of another version is begun anew."""
        try:
            opened = _opened(file)
        except (sqlite3.Error, OSError) as error:
            self._give_up(error)
            return
        self._database.close()
        self._database = opened

    def _give_up(self, error: Exception) -> None:
        """Goes on with another ledger: a new one if this one is damaged, else one that is forgotten."""
        code = getattr(error, "sqlite_errorcode", None)
        if isinstance(error, OSError) or (code is not None and code & 0xFF in _OF_OTHERS):
            self._go_without(error)
        else:
            self._set_aside(error)

    def _set_aside(self, problem: object) -> None:
        """Puts a ledger that cannot be used out of the way and begins a new one."""
        self._database.close()
        self._database = _in_memory()
        if self._file is None:
            return
        aside = self._file.with_name(self._file.name + SET_ASIDE)
        try:
            if aside.is_dir() and not aside.is_symlink():
                shutil.rmtree(aside)
            self._file.replace(aside)
            for ending in ("-journal", "-wal", "-shm"):
                self._file.with_name(self._file.name + ending).unlink(missing_ok=True)
            opened = _opened(self._file)
        except (sqlite3.Error, OSError):
            self._go_without(problem)
            return
        self._database.close()
        self._database = opened
        self._told(
            f"{self._file}: could not be used ({problem}); it is set aside as {aside.name} and begun anew, which only takes time"
        )

    def _go_without(self, error: object) -> None:
        """Goes on with a ledger in memory, and says why."""
        self._database.close()
        self._database = _in_memory()
        self._told(
            f"{self._file}: cannot be used ({error}); this run goes on without it, and remembers nothing for the next; "
            "see which program holds it, and its permissions"
        )


def read_finding(file: Path, key: str) -> str | None:
    """A finding, read without opening the whole ledger; None if there is none that can be relied on."""
    try:
        with contextlib.closing(sqlite3.connect(f"{file.absolute().as_uri()}?mode=ro", uri=True)) as database:
            row = database.execute("SELECT key, finding, digest FROM findings WHERE key = ?", (key,)).fetchone()
    except (sqlite3.Error, ValueError):
        return None
    return str(row[1]) if row and row[-1] == digest_of_row(row[:-1]) else None


def digest_of_row(row: Row) -> str:
    """The digest by which a row shows that it is as it was written."""
    return hashlib.blake2b(repr(row).encode("utf-8", "backslashreplace"), digest_size=8).hexdigest()


def _as_text(file: Path) -> str:
    """A path as the database takes it: names that are not UTF-8 are spelled out."""
    return str(file).encode("utf-8", "backslashreplace").decode()


def _in_memory() -> sqlite3.Connection:
    database = sqlite3.connect(":memory:", isolation_level=None)
    database.executescript(_TABLES)
    return database


def _opened(file: Path) -> sqlite3.Connection:
    """The database of a file.

    Raises:
        sqlite3.Error: it is damaged, locked, no database, or cannot be opened or written.
        OSError: its folder cannot be made.
    """
    file.parent.mkdir(parents=True, exist_ok=True)
    database = sqlite3.connect(file, timeout=_PATIENCE, isolation_level=None)
    try:
        (version,) = database.execute("PRAGMA user_version").fetchone()
        if (problem := database.execute("PRAGMA quick_check(1)").fetchone()) != ("ok",):
            _raise_damaged(problem)
        if version != _VERSION:
            _begin(database)
    except BaseException:
        database.close()
        raise
    return database


def _raise_damaged(problem: object) -> None:
    raise sqlite3.DatabaseError(str(problem))


def _begin(database: sqlite3.Connection) -> None:
    """Makes the tables, in place of those of another version; of two runs that begin at once, one does."""
    database.execute("BEGIN IMMEDIATE")
    (version,) = database.execute("PRAGMA user_version").fetchone()
    if version != _VERSION:
        names = database.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall()
        for (name,) in names:
            database.execute(f'DROP TABLE "{name}"')
        for statement in filter(str.strip, _TABLES.split(";")):
            database.execute(statement)
        database.execute(f"PRAGMA user_version = {_VERSION}")
    database.execute("COMMIT")
