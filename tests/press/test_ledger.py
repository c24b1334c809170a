"""The ledger remembers, and never stands in the way."""

import os
import sqlite3
from pathlib import Path

import pytest

from sarvel.core.facts import MasterFacts
from sarvel.press.ledger import Ledger

FACTS = MasterFacts("a.png", 60, 40, alpha=True, digest="ab", size=5, drawn=True, remarks=("is odd",))


def filled(file: Path) -> None:
    with Ledger(file) as ledger:
        ledger.remember([("a.webp", 12, "cd")], {"quality x": "[50]"})


def test_it_remembers(tmp_path: Path) -> None:
    file = tmp_path / "new" / "sarvel.ledger"
    filled(file)
    with Ledger(file) as ledger:
        assert (ledger.weights(), ledger.finding("quality x"), ledger.finding("y")) == ({"a.webp": 12}, "[50]", None)


@pytest.mark.parametrize(
    "content",
    [b"", b"no database at all, but text", b"SQLite format 3\0" + bytes(4000)],
    ids=["empty", "text", "zeros"],
)
def test_a_damaged_one_is_begun_anew(tmp_path: Path, content: bytes) -> None:
    file = tmp_path / "sarvel.ledger"
    file.write_bytes(content)
    filled(file)
    with Ledger(file) as ledger:
        assert ledger.weights() == {"a.webp": 12}


def test_a_truncated_one_is_begun_anew(tmp_path: Path) -> None:
    file = tmp_path / "sarvel.ledger"
    filled(file)
    file.write_bytes(file.read_bytes()[:5000])
    with Ledger(file) as ledger:
        ledger.remember([("b.webp", 3, "ef")], {})
        assert ledger.weights()["b.webp"] == 3


def test_one_of_another_version_is_begun_anew(tmp_path: Path) -> None:
    file = tmp_path / "sarvel.ledger"
    with sqlite3.connect(file) as database:
        database.executescript("CREATE TABLE other (a); PRAGMA user_version = 99")
    database.close()
    filled(file)
    with Ledger(file) as ledger:
        assert ledger.weights() == {"a.webp": 12}


def test_commands_that_write_nothing_read_it_and_leave_it(tmp_path: Path) -> None:
    file = tmp_path / "sarvel.ledger"
    Ledger(file, writes=False).close()
    assert not file.exists()
    filled(file)
    before = file.read_bytes()
    with Ledger(file, writes=False) as ledger:
        assert ledger.finding("quality x") == "[50]"
        ledger.remember([], {"quality y": "[1]"})
        assert ledger.finding("quality y") == "[1]"
    assert file.read_bytes() == before
    damaged = tmp_path / "damaged.ledger"
    damaged.write_bytes(b"x" * 999)
    with Ledger(damaged, writes=False) as ledger:
        assert ledger.weights() == {}
    assert damaged.read_bytes() == b"x" * 999


def test_a_folder_that_cannot_be_written_costs_only_memory(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    with Ledger(tmp_path / "file" / "sarvel.ledger") as ledger:
        ledger.remember([], {"a": "b"})
        assert ledger.finding("a") == "b"


def test_masters_are_known_until_they_are_touched(tmp_path: Path) -> None:
    master = tmp_path / "a.png"
    master.write_bytes(b"12345")
    with Ledger() as ledger:
        ledger.remember_master(master, master.stat(), FACTS)
        assert ledger.master(master, master.stat()) is None, "changed a moment ago, it could change again unseen"
        os.utime(master, (1e9, 1e9))
        ledger.remember_master(master, master.stat(), FACTS)
        assert ledger.master(master, master.stat()) == FACTS
        os.utime(master, (1e9, 1e9 + 1))
        assert ledger.master(master, master.stat()) is None
