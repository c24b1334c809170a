"""The ledger: inputs and results of earlier runs, so that no work is done twice. Without it all work is done again, correctly.

It is a file that others can damage, lock or replace. Each row carries a digest of itself, so that no false row is ever
used; a ledger with a false row is set aside and a new one started. Entries are written in short transactions,
and none is open during other work. Tables are never read as a whole: rows are requested by their keys.
"""

from __future__ import annotations

import contextlib
import os
import shutil
import sqlite3
import time
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import astuple, dataclass
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple, Self

from sarvel.core.facts import MasterFacts
from sarvel.files.batches import batches
from sarvel.files.facts_text import facts_as_text, facts_of_text
from sarvel.files.ledger_rows import BESIDE, Row, digest_of_row, read_only, refuse_links

if TYPE_CHECKING:
    from types import TracebackType

SET_ASIDE = ".damaged"
"""The ending of the name of a ledger that was set aside."""

_VERSION = 4  # of the tables; a ledger of another version is begun again, but for the ones that can be brought to it
_INDEX = "CREATE INDEX files_by_fingerprint ON files (fingerprint)"
_TABLES = f"""
CREATE TABLE masters (path TEXT PRIMARY KEY, size INTEGER, changed INTEGER, facts TEXT, digest TEXT) WITHOUT ROWID;
CREATE TABLE files (name TEXT PRIMARY KEY, bytes INTEGER, content TEXT, fingerprint TEXT, digest TEXT) WITHOUT ROWID;
CREATE TABLE findings (key TEXT PRIMARY KEY, finding TEXT, digest TEXT) WITHOUT ROWID;
{_INDEX};
"""
_KEYS = {"masters": "path", "files": "name", "findings": "key"}
_FROM_BEFORE = {3: (_INDEX,)}
"""What brings the tables of an earlier version to this one."""

_AT_ONCE = (
    500  # keys of one query: SQLite takes 999 even where it is old ("Limits in SQLite", SQLITE_MAX_VARIABLE_NUMBER)
)

# A file that was changed so shortly ago could be changed again within what the clock of the file system can tell apart.
_SETTLED_NS = 2_000_000_000

# Bytes of a ledger that is looked through when it is opened, in some 0.1 s; a larger one shows damage where it is read.
_SOON_CHECKED = 32_000_000

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


class Stamp(NamedTuple):
    """The state of a master's file, by which it is seen whether it was touched.

    Attributes:
        size: its bytes.
        changed: when, ns; or what names the version of one in object storage.
    """

    size: int
    changed: int | str


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
    """An open ledger. Its failures are reported once and skipped: it only ever saves time.

    `is_damaged` tells whether it was set aside since it was opened: earlier answers may not fit its present content.

    Findings are costly results: an encoder's number, a placeholder, a subject. Their keys hold everything
    that they depend on, so that a finding never grows old.
    """

    def __init__(
        self,
        file: Path | None = None,
        *,
        creates: bool = True,
        keeps: bool = True,
        told: Callable[[str], None] = lambda _: None,
    ) -> None:
        """Opens a ledger.

        Args:
            file: where it is; None, or one that cannot be opened, makes one that is forgotten.
            creates: whether the file is made if it is not there; if not, it is once there is a finding to keep.
            keeps: whether facts of masters are written when it is closed.
            told: called with a line for the user where something is wrong with it.
        """
        self._file, self._told, self._keeps = file, told, keeps
        self._masters: dict[str, Row] = {}  # read of masters, by path, and not written down yet
        self._database = _in_memory()
        self.is_damaged = self._is_checked = False
        self._waits = file is not None and not creates and not os.path.lexists(file)
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
        """Writes pending entries."""
        if self._keeps:
            self.remember([], {})
        self._database.close()

    def master(self, place: str, stamp: Stamp, key: str) -> MasterFacts | None:
        """The facts that were read of a master, if its file has not been touched since.

        Args:
            key: what the plan calls it now; it may have been called otherwise when it was read.
        """
        path = _as_text(place)
        known = self._masters.get(path)
        row = known or self._one("SELECT path, size, changed, facts, digest FROM masters WHERE path = ?", path)
        if row is None or row[1:3] != stamp:
            return None
        return facts_of_text(str(row[3]), key)

    def remember_master(self, place: str, stamp: Stamp, facts: MasterFacts) -> None:
        """Writes facts of a master, unless it changed a moment ago; at the latest when the ledger is closed."""
        if isinstance(stamp.changed, int) and time.time_ns() - stamp.changed < _SETTLED_NS:
            return
        self._masters[_as_text(place)] = (_as_text(place), *stamp, facts_as_text(facts))

    def finding(self, key: str) -> str | None:
        """The finding under a key; or None."""
        row = self._one("SELECT key, finding, digest FROM findings WHERE key = ?", key)
        return str(row[1]) if row else None

    def findings(self, keys: Iterable[str]) -> dict[str, str]:
        """The findings under some keys, by key, as far as there are any."""
        query = "SELECT key, finding, digest FROM findings WHERE key IN ({})"
        return {str(key): str(finding) for key, finding, _ in self._rows_of(query, keys)}

    def check_rows(self) -> None:
        """Reads all files and findings, once: a row whose key was changed is never asked for by its key."""
        if self._is_checked or self.is_damaged:
            return
        self._is_checked = True
        try:
            rows = (row for table in ("files", "findings") for row in self._database.execute(f"SELECT * FROM {table}"))  # noqa: S608 - of _KEYS
            is_sound = all(row[-1] == digest_of_row(row[:-1]) for row in rows)
        except (sqlite3.Error, ValueError) as error:
            self._give_up(error)
            return
        if not is_sound:
            self._set_aside("a row was changed")

    def files(self, names: Iterable[str]) -> dict[str, MadeFile]:
        """The files of some names, by name, as far as they were ever made; they may be gone."""
        query = "SELECT name, bytes, content, fingerprint, digest FROM files WHERE name IN ({})"
        return {file.name: file for file in map(_file, self._rows_of(query, names))}

    def alike(self, fingerprints: Iterable[str]) -> dict[str, list[MadeFile]]:
        """Files that were ever made of something, by its fingerprint, each by name in order."""
        query = "SELECT name, bytes, content, fingerprint, digest FROM files WHERE fingerprint IN ({})"
        found: dict[str, list[MadeFile]] = {}
        for file in sorted(map(_file, self._rows_of(query, fingerprints)), key=lambda file: file.name):
            found.setdefault(file.fingerprint, []).append(file)
        return found

    def remember(self, files: Iterable[MadeFile], findings: Mapping[str, str]) -> None:
        """Writes down files that were made, and findings, by key."""
        if self._file and self._waits and findings:
            self._waits = False
            self._open(self._file)
        masters, self._masters = list(self._masters.values()), {}
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
            with contextlib.suppress(sqlite3.Error, ValueError):  # kept at least for this run
                for statement, rows in batches:
                    self._database.executemany(statement, [(*row, digest_of_row(row)) for row in rows])

    def _one(self, query: str, key: str) -> Row | None:
        found = self._all(query, key)
        return found[0] if found else None

    def _rows_of(self, query: str, keys: Iterable[str]) -> Iterator[Row]:
        """Rows of many keys, some at a time."""
        for some in batches(dict.fromkeys(keys), _AT_ONCE):
            yield from self._all(query.format(", ".join("?" * len(some))), *some)

    def _all(self, query: str, *values: str) -> list[Row]:
        """Rows of a query; none if the ledger is damaged, which is then set aside."""
        try:
            rows = self._database.execute(query, values).fetchall()
        except (sqlite3.Error, ValueError) as error:
            self._give_up(error)
            return []
        if all(row[-1] == digest_of_row(row[:-1]) for row in rows):
            return rows
        self._set_aside("a row was changed")
        return []

    def _open(self, file: Path) -> None:
        """Opens the ledger of a file; one that is damaged or of another version is begun again."""
        try:
            opened = _opened(file)
        except (sqlite3.Error, OSError) as error:
            self._give_up(error)
            return
        self._database.close()
        self._database = opened

    def _give_up(self, error: Exception) -> None:
        """Continues with another ledger: a new one if this one is damaged, else one in memory."""
        code = getattr(error, "sqlite_errorcode", None)
        if isinstance(error, OSError) or (code is not None and code & 0xFF in _OF_OTHERS):
            self._go_without(error)
        else:
            self._set_aside(error)

    def _set_aside(self, problem: object) -> None:
        """Moves an unusable ledger away and starts a new one with all of its valid rows."""
        saved = _saved(self._file) if self._file else {}
        self._database.close()
        self._database = _in_memory()
        self.is_damaged = True
        if self._file is None:
            return
        aside = self._file.with_name(self._file.name + SET_ASIDE)
        try:
            if aside.is_dir() and not aside.is_symlink():
                shutil.rmtree(aside)
            self._file.replace(aside)
            for ending in BESIDE:
                self._file.with_name(self._file.name + ending).unlink(missing_ok=True)
            opened = _opened(self._file)
        except (sqlite3.Error, OSError):
            self._go_without(problem)
            return
        self._database.close()
        self._database = opened
        for table, rows in saved.items():
            places = ", ".join("?" * len(rows[0]))
            self._database.executemany(f"INSERT OR REPLACE INTO {table} VALUES ({places})", rows)  # noqa: S608 - of _KEYS
        self._told(f"{self._file}: could not be used ({problem}); it is kept as {aside.name}; a new one is started")

    def _go_without(self, error: object) -> None:
        """Continues with a ledger in memory, and reports why."""
        self._database.close()
        self._database = _in_memory()
        self._told(
            f"{self._file}: cannot be used ({error}); this run goes on without it, and remembers nothing for the next; "
            "see which program holds it, and its permissions"
        )


def _saved(file: Path) -> dict[str, list[Row]]:
    """Rows of a damaged ledger that are as they were written, by table; read from both ends up to what cannot be read."""
    saved: dict[str, dict[object, Row]] = {}
    with contextlib.suppress(sqlite3.Error), contextlib.closing(read_only(file)) as database:
        for table, key in _KEYS.items():
            for order in ("ASC", "DESC"):
                with contextlib.suppress(sqlite3.Error, ValueError):
                    for row in database.execute(f"SELECT * FROM {table} ORDER BY {key} {order}"):  # noqa: S608 - of _KEYS
                        if row[0] in saved.get(table, ()):
                            break
                        if row[-1] == digest_of_row(row[:-1]):
                            saved.setdefault(table, {})[row[0]] = row
    return {table: list(rows.values()) for table, rows in saved.items()}


def _file(row: Row) -> MadeFile:
    name, size, content, fingerprint, _ = row
    return MadeFile(str(name), int(str(size)), str(content), str(fingerprint))


def _as_text(path: str) -> str:
    """A path as the database takes it: names that are not UTF-8 are spelled out."""
    return path.encode("utf-8", "backslashreplace").decode()


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
    refuse_links(file)
    file.parent.mkdir(parents=True, exist_ok=True)
    database = sqlite3.connect(file, timeout=_PATIENCE, isolation_level=None)
    try:
        (version,) = database.execute("PRAGMA user_version").fetchone()
        if file.stat().st_size < _SOON_CHECKED:
            problem = database.execute("PRAGMA quick_check(1)").fetchone()
            if problem != ("ok",):
                raise sqlite3.DatabaseError(str(problem))  # noqa: TRY301 - closed below, as for errors of SQLite
        if version != _VERSION:
            _begin(database)
        _write_ahead(database)
    except BaseException:
        database.close()
        raise
    return database


def _write_ahead(database: sqlite3.Connection) -> None:
    """Lets others read while this run writes, and a commit wait for no disk: a lost one costs time, never a false row.

    Some network drives cannot share memory between programs, and another run may hold the file: it continues as before.
    """
    with contextlib.suppress(sqlite3.OperationalError):
        database.execute("PRAGMA journal_mode = WAL")
    database.execute("PRAGMA synchronous = NORMAL")


def _begin(database: sqlite3.Connection) -> None:
    """Makes the tables, in place of those of another version; of two runs that begin at once, one does."""
    database.execute("BEGIN IMMEDIATE")
    (version,) = database.execute("PRAGMA user_version").fetchone()
    if version in _FROM_BEFORE:
        for statement in _FROM_BEFORE[version]:
            database.execute(statement)
        database.execute(f"PRAGMA user_version = {_VERSION}")
    elif version != _VERSION:
        names = database.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall()
        for (name,) in names:
            database.execute(f'DROP TABLE "{name}"')
        for statement in filter(str.strip, _TABLES.split(";")):
            database.execute(statement)
        database.execute(f"PRAGMA user_version = {_VERSION}")
    database.execute("COMMIT")
