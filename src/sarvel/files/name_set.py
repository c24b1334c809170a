"""A set of names that is larger than memory should hold."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from types import TracebackType
from typing import Self


class NameSet:
    """A set of names in a file that is deleted with it: a temporary database (SQLite, "Opening A New Database Connection")."""

    def __init__(self) -> None:
        """Begins an empty one."""
        self._database = sqlite3.connect("", isolation_level=None)
        self._database.execute("CREATE TABLE names (name TEXT PRIMARY KEY) WITHOUT ROWID")

    def __enter__(self) -> Self:
        """The set."""
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        """Lets go of its file."""
        self._database.close()

    def __contains__(self, name: object) -> bool:
        """Tells whether a name is in it."""
        found = self._database.execute("SELECT 1 FROM names WHERE name = ?", (name,)).fetchone()
        return found is not None

    def __len__(self) -> int:
        """How many there are."""
        (count,) = self._database.execute("SELECT count(*) FROM names").fetchone()
        return int(count)

    def add(self, names: Iterable[str]) -> None:
        """Puts names into it."""
        self._database.execute("BEGIN")
        self._database.executemany("INSERT OR IGNORE INTO names VALUES (?)", ((name,) for name in names))
        self._database.execute("COMMIT")
