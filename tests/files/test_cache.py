"""The cache: one who makes a file, a limit that is kept by what is used least, nothing half written."""

import os
import time
from dataclasses import replace
from pathlib import Path

import pytest

from sarvel.core.edition.encoding import Encoding
from sarvel.core.edition.rendition import Rendition
from sarvel.files.atomic import PART, write_whole
from sarvel.files.cache import Cache

FILE = Rendition("a.b.webp", "webp", "image/webp", 10, 10, Encoding(), "ab" * 16)


def files(count: int) -> list[Rendition]:
    return [replace(FILE, fingerprint=f"{number:02x}" * 16) for number in range(count)]


def put(cache: Cache, one: Rendition, size: int, age: float = 0.0, *, first: bool = False) -> Path:
    place = cache.folder / cache.name(one, first=first)
    write_whole(place, b"x" * size)
    os.utime(place, (time.time() - age,) * 2)
    return place


def test_names_tell_a_first_file_from_the_right_one(tmp_path: Path) -> None:
    cache = Cache(tmp_path, 1000)
    assert cache.name(FILE, first=False) == f"ab/{'ab' * 16}.webp" and cache.name(FILE, first=True).endswith(
        ".first.webp"
    )
    assert cache.read(FILE, first=True) is None
    put(cache, FILE, 5, first=True)
    assert cache.read(FILE, first=True) == b"xxxxx" and not cache.has(FILE) and cache.read(FILE, first=False) is None
    put(cache, FILE, 0)
    assert cache.has(FILE) and cache.read(FILE, first=False) is None  # nothing at all is no file
    cache.drop_first(FILE)
    cache.drop_first(FILE)
    assert cache.read(FILE, first=True) is None


@pytest.mark.parametrize(("limit", "gone"), [(1000, 0), (999, 2), (500, 6), (1, 10)])
def test_what_is_used_least_goes(tmp_path: Path, limit: int, gone: int) -> None:
    """Ten files of 100 bytes; a sweep leaves nine tenths of the limit, so that not every file makes another one necessary."""
    cache = Cache(tmp_path, limit)
    for number, one in enumerate(files(10)):
        put(cache, one, 100, age=1000 - number)
    swept = cache.sweep()
    assert (swept.gone, swept.left) == (gone, 1000 - 100 * gone)
    assert [cache.has(one) for one in files(10)] == [number >= gone for number in range(10)]


def test_what_is_read_or_in_memory_counts_as_used(tmp_path: Path) -> None:
    cache = Cache(tmp_path, 400)
    for number, one in enumerate(files(10)):
        put(cache, one, 100, age=1000 - number)
    cache.read(files(10)[0], first=False)
    cache.sweep(in_memory=[files(10)[1]])
    assert [number for number, one in enumerate(files(10)) if cache.has(one)] == [0, 1, 9]


def test_what_killed_servers_left_goes_and_what_is_being_written_stays(tmp_path: Path) -> None:
    cache = Cache(tmp_path, 1000)
    old, new = (tmp_path / "ab" / f"{PART}{name}" for name in ("old", "new"))
    old.parent.mkdir()
    old.write_bytes(b"half")
    new.write_bytes(b"half")
    os.utime(old, (time.time() - 3600,) * 2)
    (tmp_path / "sarvel.ledger").write_bytes(b"kept")
    assert cache.sweep().left == 0
    assert (old.exists(), new.exists(), (tmp_path / "sarvel.ledger").exists()) == (False, True, True)
    assert Cache(tmp_path / "none", 1).sweep().left == 0


def test_one_makes_a_file(tmp_path: Path) -> None:
    cache, other = Cache(tmp_path, 1000), Cache(tmp_path, 1000)
    claimed = cache.claim(FILE)
    assert claimed and other.claim(FILE) is None and cache.claim(FILE) is None
    third = other.claim(files(1)[0])
    cache.give_back(claimed)
    again = other.claim(FILE)
    assert again and third
    other.give_back(again)
    other.give_back(third)
    assert not list((tmp_path / "locks").iterdir())
