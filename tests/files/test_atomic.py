"""Files are written whole or not at all."""

import os
import stat
from pathlib import Path

import pytest

from sarvel.errors import OutputError
from sarvel.files.atomic import write_whole


def test_writes_folder_file_and_permissions(tmp_path: Path) -> None:
    file = tmp_path / "new" / "deep" / "a.bin"
    write_whole(file, b"1")
    file.chmod(0o640)
    write_whole(file, b"22", file.stat())
    assert file.read_bytes() == b"22" and stat.S_IMODE(file.stat().st_mode) == 0o640
    assert [entry.name for entry in file.parent.iterdir()] == ["a.bin"]


def test_permissions_are_the_systems_own_by_default(tmp_path: Path) -> None:
    write_whole(tmp_path / "a", b"")
    (tmp_path / "b").write_bytes(b"")
    assert (tmp_path / "a").stat().st_mode == (tmp_path / "b").stat().st_mode


def test_a_failure_leaves_what_was_there(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    file = tmp_path / "a"
    file.write_bytes(b"before")

    def full(_: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(OutputError, match=r"a: cannot be written \(No space left on device\); make room on the disk"):
        write_whole(file, b"after")
    assert file.read_bytes() == b"before" and [entry.name for entry in tmp_path.iterdir()] == ["a"]


def test_a_file_where_a_folder_should_be(tmp_path: Path) -> None:
    (tmp_path / "public").write_bytes(b"")
    with pytest.raises(OutputError, match="cannot be written"):
        write_whole(tmp_path / "public" / "a", b"")
