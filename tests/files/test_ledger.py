"""The ledger remembers, and never stands in the way."""

import os
import sqlite3
from dataclasses import replace
from pathlib import Path

import pytest

from sarvel.core.crop.place import Box
from sarvel.core.facts import MasterFacts, NamedSubject
from sarvel.files.facts_text import facts_as_text, facts_of_text
from sarvel.files.ledger import Ledger, MadeFile, Stamp
from sarvel.files.ledger_rows import read_finding

NAMED = NamedSubject((Box(0.1, 0.2, 0.3, 0.4), Box(0, 0, 0, 0)), "file")
FACTS = MasterFacts(
    "a.png", 60, 40, alpha=True, digest="ab", size=5, drawn=True, remarks=("is odd",), note="is odd too", named=NAMED
)


def weights(ledger: Ledger) -> dict[str, int]:
    return {name: file.size for name, file in ledger.files(["a.webp", "b.webp", "none"]).items()}


def stamp(file: Path) -> Stamp:
    return Stamp(file.stat().st_size, file.stat().st_mtime_ns)


def filled(file: Path) -> None:
    with Ledger(file) as ledger:
        ledger.remember([MadeFile("a.webp", 12, "cd", "fa")], {"quality x": "[50]"})


def test_it_remembers(tmp_path: Path) -> None:
    file = tmp_path / "new" / "sarvel.ledger"
    filled(file)
    with Ledger(file) as ledger:
        assert (weights(ledger), ledger.finding("quality x"), ledger.finding("y")) == ({"a.webp": 12}, "[50]", None)


@pytest.mark.parametrize("facts", [FACTS, replace(FACTS, named=None)])
def test_facts_as_text(facts: MasterFacts) -> None:
    assert facts_of_text(facts_as_text(facts), "a.png") == facts
    earlier = facts_as_text(facts).replace('"named"', '"other"')
    assert facts_of_text(earlier, "a.png") is None


def damage(file: Path, how: str) -> None:
    filled(file)
    content = file.read_bytes()
    match how:
        case "empty":
            file.write_bytes(b"")
        case "text":
            file.write_bytes(b"no database at all, but text")
        case "zeros":
            file.write_bytes(b"SQLite format 3\0" + bytes(4000))
        case "truncated":
            file.write_bytes(content[:5000])
        case "a folder":
            file.unlink()
            file.mkdir()
        case "a flipped bit":
            at = content.index(b"[50]") + 1
            file.write_bytes(content[:at] + bytes([content[at] ^ 4]) + content[at + 1 :])
        case _:  # rows that are none of ours, as another program may write them
            with sqlite3.connect(file) as database:
                database.execute(how)
            database.close()


DAMAGE = ["empty", "text", "zeros", "truncated", "a folder", "a flipped bit", "UPDATE findings SET finding = '{bad'", "UPDATE findings SET finding = NULL",
    "UPDATE files SET bytes = NULL", "UPDATE files SET bytes = 13", "DROP TABLE findings", "UPDATE findings SET digest = ''"]  # fmt: skip


@pytest.mark.parametrize("how", DAMAGE)
def test_a_damaged_one_is_set_aside_and_begun_anew_with_one_line(tmp_path: Path, how: str) -> None:
    file, told = tmp_path / "sarvel.ledger", list[str]()
    damage(file, how)
    with Ledger(file, told=told.append) as ledger:
        assert ledger.finding("quality x") in (None, "[50]") and weights(ledger) in ({}, {"a.webp": 12})
        assert ledger.master("a.png", Stamp(1, 2), "a.png") is None
        ledger.remember([MadeFile("b.webp", 3, "ef", "fb")], {"y": "1"})
    assert len(told) == (how != "empty")
    assert not told or ("it is kept as sarvel.ledger.damaged" in told[0])
    with Ledger(file, told=told.append) as ledger:
        assert weights(ledger)["b.webp"] == 3 and ledger.finding("y") == "1"
    assert len(told) <= 1


def test_one_that_is_locked_is_said_so_at_once_and_done_without(tmp_path: Path) -> None:
    file, told = tmp_path / "sarvel.ledger", list[str]()
    filled(file)
    holder = sqlite3.connect(file, isolation_level=None)
    holder.execute("BEGIN EXCLUSIVE")
    with Ledger(file, told=told.append) as ledger:
        assert weights(ledger) == {"a.webp": 12}, "who only reads is not held up"
        ledger.remember([MadeFile("b.webp", 3, "ef", "fb")], {})
        assert len(told) == 1 and "cannot be used (database is locked); this run goes on without it" in told[0]
        assert weights(ledger) == {"b.webp": 3}
    holder.close()
    with Ledger(file, told=told.append) as ledger:
        assert weights(ledger) == {"a.webp": 12} and len(told) == 1


def test_no_transaction_is_open_between_calls(tmp_path: Path) -> None:
    """Another run can write at any moment, though this one has remembered things and goes on."""
    file = tmp_path / "sarvel.ledger"
    master = tmp_path / "a.png"
    master.write_bytes(b"12345")
    os.utime(master, (1e9, 1e9))
    with Ledger(file) as ledger:
        ledger.remember_master(str(master), stamp(master), FACTS)
        ledger.remember([MadeFile("a.webp", 12, "cd", "fa")], {})
        other = sqlite3.connect(file, timeout=0, isolation_level=None)
        other.execute("BEGIN EXCLUSIVE")
        other.execute("ROLLBACK")
        other.close()


def test_a_finding_alone_is_read_only_where_it_is_true(tmp_path: Path) -> None:
    file = tmp_path / "a ?#% b" / "sarvel.ledger"
    filled(file)
    assert read_finding(file, "quality x") == "[50]" and read_finding(file, "y") is None
    with sqlite3.connect(file) as database:
        database.execute("UPDATE findings SET finding = '[70]'")
    database.close()
    assert read_finding(file, "quality x") is None


def test_one_of_the_version_before_is_taken_over(tmp_path: Path) -> None:
    """Version 3 had no index by fingerprint; all that it knew stays known."""
    file = tmp_path / "sarvel.ledger"
    filled(file)
    with sqlite3.connect(file) as database:
        database.executescript("DROP INDEX files_by_fingerprint; PRAGMA user_version = 3")
    database.close()
    with Ledger(file, told=pytest.fail) as ledger:
        assert weights(ledger) == {"a.webp": 12} and ledger.finding("quality x") == "[50]"
        ledger.remember([MadeFile("b.webp", 12, "cd", "fa")], {})
        assert {one: [file.name for file in files] for one, files in ledger.alike(["fa", "none"]).items()} == {"fa": ["a.webp", "b.webp"]}  # fmt: skip
    with sqlite3.connect(file) as database:
        plan = str(database.execute("EXPLAIN QUERY PLAN SELECT * FROM files WHERE fingerprint IN ('fa')").fetchall())
    database.close()
    assert "files_by_fingerprint" in plan


def test_many_keys_are_asked_for_some_at_a_time() -> None:
    with Ledger() as ledger:
        files = [MadeFile(f"{number}.webp", number, "cd", f"f{number % 7}") for number in range(1800)]
        ledger.remember(files, {f"key {number}": str(number) for number in range(1800)})
        assert ledger.files(one.name for one in files) == {one.name: one for one in files}
        assert len(ledger.findings(f"key {number}" for number in range(0, 3600, 2))) == 900
        assert sum(map(len, ledger.alike({one.fingerprint for one in files}).values())) == 1800


def test_one_of_another_version_is_begun_anew(tmp_path: Path) -> None:
    file = tmp_path / "sarvel.ledger"
    with sqlite3.connect(file) as database:
        database.executescript("CREATE TABLE other (a); PRAGMA user_version = 99")
    database.close()
    filled(file)
    with Ledger(file) as ledger:
        assert weights(ledger) == {"a.webp": 12}


def test_one_that_is_only_looked_into_is_made_for_findings_alone(tmp_path: Path) -> None:
    file = tmp_path / "sarvel.ledger"
    with Ledger(file, creates=False) as ledger:
        ledger.remember([], {})
        assert ledger.finding("a") is None
    assert not file.exists()
    with Ledger(file, creates=False) as ledger:
        ledger.remember([], {"a": "b"})
    with Ledger(file, creates=False) as ledger:
        assert ledger.finding("a") == "b"


def test_a_folder_that_cannot_be_written_costs_only_memory(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    with Ledger(tmp_path / "file" / "sarvel.ledger") as ledger:
        ledger.remember([], {"a": "b"})
        assert ledger.finding("a") == "b"


def test_masters_are_known_until_they_are_touched(tmp_path: Path) -> None:
    master = tmp_path / "a.png"
    master.write_bytes(b"12345")
    with Ledger() as ledger:
        ledger.remember_master(str(master), stamp(master), FACTS)
        assert ledger.master(str(master), stamp(master), "a.png") is None, (
            "changed a moment ago, it could change again unseen"
        )
        os.utime(master, (1e9, 1e9))
        ledger.remember_master(str(master), stamp(master), FACTS)
        assert ledger.master(str(master), stamp(master), "a.png") == FACTS
        renamed = ledger.master(str(master), stamp(master), "other/a.png")
        assert renamed == replace(FACTS, key="other/a.png"), "the masters folder of the plan may change"
        os.utime(master, (1e9, 1e9 + 1))
        assert ledger.master(str(master), stamp(master), "a.png") is None


@pytest.mark.parametrize("how", ["UPDATE files SET name = 'c.webp'", "UPDATE findings SET key = 'other'"])
def test_rows_under_other_keys_are_found_when_all_are_checked(tmp_path: Path, how: str) -> None:
    """Nothing asks for them by their keys any more."""
    file = tmp_path / "sarvel.ledger"
    damage(file, how)
    with Ledger(file) as ledger:
        before = ledger.is_damaged
        ledger.check_rows()
        assert (before, ledger.is_damaged) == (False, True)
    with Ledger(tmp_path / "sound.ledger") as ledger:
        ledger.check_rows()
        assert not ledger.is_damaged
