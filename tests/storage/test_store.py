"""Places in object storage, by the library's own storage in memory, which tells no digests and needs no server."""

import base64
import hashlib
import os
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from fsspec.implementations.memory import MemoryFileSystem

from sarvel.encode.masters import read_facts
from sarvel.errors import MasterError, OutputError, StorageError
from sarvel.files.ledger import Ledger, MadeFile
from sarvel.files.storage.output_store import OutputStore
from sarvel.files.storage.store import Store, StoredEntry
from sarvel.files.storage.stored_master import StoredMaster
from sarvel.files.storage.stored_output import StoredOutput

TYPES = {"webp": "image/webp", "jpg": "image/jpeg"}


@pytest.fixture(autouse=True)
def memory() -> Iterator[MemoryFileSystem]:
    """Nothing is in memory before, nor after."""
    fs = MemoryFileSystem()
    fs.store.clear()
    yield fs
    fs.store.clear()


def test_what_is_put_is_listed_read_and_removed() -> None:
    store = Store("memory://shop/pictures/")
    assert store.entries() == {}
    store.put("a.webp", b"123", "image/webp", "no-cache")
    store.put("below/b.webp", b"12", "image/webp", "no-cache")
    Store("memory://shop").put("beside.webp", b"1", "image/webp", "no-cache")
    assert {name: entry.size for name, entry in store.entries().items()} == {"a.webp": 3, "below/b.webp": 2}
    assert store.get("a.webp") == b"123"
    store.remove(["a.webp"])
    assert store.entries().keys() == {"below/b.webp"}
    with pytest.raises(StorageError, match=r"memory://shop/pictures/a\.webp: is not there"):
        store.get("a.webp")


def test_what_does_not_arrive_whole_is_not_taken(monkeypatch: pytest.MonkeyPatch) -> None:
    store, content = Store("memory://shop"), bytes(range(200))

    def arrives(info: dict[str, object], read: bytes) -> bool:
        with monkeypatch.context() as patch:
            patch.setattr(MemoryFileSystem, "info", lambda _self, _path: {"size": len(content)} | info)
            patch.setattr(MemoryFileSystem, "cat_file", lambda _self, _path: read)
            try:
                store.put("a.webp", content, "image/webp", "no-cache")
            except StorageError as error:
                assert "memory://shop/a.webp: did not arrive as it was sent; run again" in str(error)
                return False
            return True

    md5 = hashlib.md5(content, usedforsecurity=False)
    assert not arrives({"size": 199}, content)
    assert not arrives({"ETag": '"0123"'}, content[:-1] + b"x")
    assert arrives({"ETag": f'"{md5.hexdigest()}"'}, b"is not read then")
    assert arrives({"md5Hash": base64.b64encode(md5.digest()).decode()}, b"as Google's tells it")
    assert arrives({"content_settings": {"content_md5": md5.digest()}}, b"as Azure's tells it")
    assert arrives({"ETag": '"of what is encrypted"'}, content)
    assert arrives({"ETag": '"of what is encrypted"'}, b"and then its digests are not relied on")


def test_a_digest_of_parts_is_that_of_s3() -> None:
    """Amazon S3, "Checking object integrity": the MD5 of the MD5s of the parts, and how many they are."""
    from sarvel.files.storage.store import _digests

    content = bytes(17 << 20)
    parts = [hashlib.md5(bytes(size << 20), usedforsecurity=False).digest() for size in (8, 8, 1)]
    assert f"{hashlib.md5(b''.join(parts), usedforsecurity=False).hexdigest()}-3" in _digests(content)


def test_a_storage_without_whole_writes_gets_files_by_renaming(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("sarvel.files.storage.store._AT_ONCE", ())
    written: list[str] = []
    pipe = MemoryFileSystem.pipe_file

    def piped(self: MemoryFileSystem, path: str, value: bytes, **said: object) -> None:
        written.append(path)
        pipe(self, path, value, **said)

    monkeypatch.setattr(MemoryFileSystem, "pipe_file", piped)
    store = Store("memory://shop/pictures")
    store.put("a.webp", b"123", "image/webp", "no-cache")
    assert store.entries().keys() == {"a.webp"} and written[0].startswith("/shop/pictures/.sarvel-")


def output(folder: Path) -> OutputStore:
    return OutputStore(folder, StoredOutput("memory://shop/pictures", TYPES))


def test_an_output_knows_what_is_there_and_sends_the_rest(tmp_path: Path) -> None:
    first, second, lost = (MadeFile(name, 3, "", name) for name in ("a.webp", "b.jpg", "lost.webp"))
    for file in (first, second):
        (tmp_path / file.name).write_bytes(b"123")
    (tmp_path / "unknown.webp").write_bytes(b"of a run that was killed before it was noted")
    (tmp_path / "pictures.css").write_text("")
    folder = output(tmp_path)
    assert (str(folder), list(folder.names())) == ("memory://shop/pictures", [])
    with Ledger() as ledger:
        ledger.remember([first, second, lost], {})
        left = folder.left_behind(ledger)
        assert left == [first, second] and not (tmp_path / "unknown.webp").exists()
        with folder.sending() as send:
            send(left)
            send.finish(lambda _: None)
        assert folder.left_behind(ledger) == []
    assert [file.name for file in tmp_path.iterdir()] == ["pictures.css"]
    assert folder.sizes(["a.webp", "b.jpg", "c.webp"]) == {"a.webp": 3, "b.jpg": 3} == output(tmp_path).sizes(["a.webp", "b.jpg"])  # fmt: skip
    assert folder.read("a.webp") == b"123" == folder.file("a.webp").read_bytes()
    with pytest.raises(FileNotFoundError):
        folder.read("c.webp")
    folder.remove(["a.webp", "c.webp"])
    assert set(folder.names()) == {"b.jpg"} == set(output(tmp_path).names())
    folder.arrived([lost])
    assert folder.sizes(["lost.webp"]) == {"lost.webp": 3}


def test_after_some_in_a_row_are_refused_no_more_are_tried(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    tried: list[str] = []

    def refuse(_self: Store, name: str, *_: object) -> None:
        tried.append(name)
        raise StorageError.at("", f"{name}: refused") from PermissionError()

    monkeypatch.setattr(Store, "put", refuse)
    files = [MadeFile(f"{number:03}.webp", 1, "", "") for number in range(200)]
    for file in files:
        (tmp_path / file.name).write_bytes(b"1")
    with pytest.raises(OutputError, match=r"\n.*200 files were not sent; kept in"), output(tmp_path).sending() as send:
        send(files)
        send.finish(lambda _: None)
    assert 3 <= len(tried) < 60 and len([*tmp_path.iterdir()]) == 200


def master(cache: Path, key: str, limit: int = 10_000) -> StoredMaster:
    entry = Store("memory://shop/masters").entries().get(key, StoredEntry(0, ""))
    return StoredMaster("memory://shop/masters", key, entry.size, entry.version, cache, limit)


def test_masters_are_kept_within_a_limit_and_never_out_of_date(tmp_path: Path, memory: MemoryFileSystem) -> None:
    for number in range(5):
        memory.pipe_file(f"/shop/masters/{number}.png", bytes(4000))
    first = master(tmp_path, "0.png").fetched()
    assert first.read_bytes() == bytes(4000) and master(tmp_path, "0.png").fetched() == first
    memory.pipe_file("/shop/masters/0.png", b"1" * 4000)
    second = master(tmp_path, "0.png").fetched()
    assert second != first and second.read_bytes() == b"1" * 4000
    for file in (first, second):
        os.utime(file, (time.time() - 100, time.time() - 100))
    later = [master(tmp_path, f"{number}.png").fetched() for number in range(1, 5)]
    assert not first.exists() and not second.exists() and all(file.exists() for file in later), "young ones stay"
    with pytest.raises(MasterError, match=r"none\.png: there is no such file in memory://shop/masters; put it there"):
        read_facts(master(tmp_path, "none.png"), "none.png")
    listed = master(tmp_path / "other", "1.png")
    memory.rm("/shop/masters/1.png")
    with pytest.raises(MasterError, match=r"1\.png: cannot be fetched: memory://shop/masters/1\.png: is not there"):
        read_facts(listed, "1.png")
