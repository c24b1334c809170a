"""Rows of the ledger's file, and one finding of it without all of the ledger: it tells of runs that have nothing to do."""

from __future__ import annotations

import contextlib
import hashlib
import sqlite3
import stat
from pathlib import Path

FILE_NAME = "sarvel.ledger"

BESIDE = ("-journal", "-wal", "-shm")
"""Endings of files that SQLite keeps next to its own."""

Row = tuple[object, ...]


def read_finding(file: Path, key: str) -> str | None:
    """A finding, read without opening the whole ledger; or None that can be relied on."""
    try:
        with contextlib.closing(read_only(file)) as database:
            row = database.execute("SELECT key, finding, digest FROM findings WHERE key = ?", (key,)).fetchone()
    except (sqlite3.Error, ValueError):
        return None
    return str(row[1]) if row and row[-1] == digest_of_row(row[:-1]) else None


def digest_of_row(row: Row) -> str:
    """The digest by which a row shows that it is as it was written."""
    return hashlib.blake2b(repr(row).encode("utf-8", "backslashreplace"), digest_size=8).hexdigest()


def read_only(file: Path) -> sqlite3.Connection:
    """A ledger for reading alone; SQLite may write to files next to it all the same."""
    refuse_links(file)
    return sqlite3.connect(f"{file.absolute().as_uri()}?mode=ro", uri=True)


def refuse_links(file: Path) -> None:
    """Checks that a ledger, and what SQLite keeps next to it, are files of their own.

    Raises:
        sqlite3.DatabaseError: one is a link, another file too, or none.
    """
    for own in (file, *(file.with_name(file.name + ending) for ending in BESIDE)):
        with contextlib.suppress(FileNotFoundError):  # another run may end at this moment
            state = own.lstat()
            if not stat.S_ISREG(state.st_mode) or state.st_nlink > 1:
                raise sqlite3.DatabaseError(f"{own.name} is a link or no file, and nothing is written through one")
