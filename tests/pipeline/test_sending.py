"""Which files are sent to object storage, and when."""

from dataclasses import replace
from pathlib import Path

import pytest
from fsspec.implementations.memory import MemoryFileSystem

from sarvel.encode.work import Made
from sarvel.files.ledger import Ledger, MadeFile
from sarvel.files.output_folder import OutputFolder
from sarvel.files.storage.output_store import OutputStore
from sarvel.files.storage.stored_output import StoredOutput
from sarvel.pipeline.listener import Nobody
from sarvel.pipeline.sending import Publishing, finish, send_left_behind
from sarvel.pipeline.site import read_site
from sarvel.plan.read import read_plan


def test_files_of_formats_that_do_not_pay_are_not_sent(site: Path, tmp_path: Path) -> None:
    MemoryFileSystem().store.clear()
    place = StoredOutput("memory://shop/pictures", {"webp": "image/webp", "jpg": "image/jpeg"})
    with Ledger() as ledger:
        found = read_site(read_plan(site / "sarvel.toml"), ledger)
        stored = replace(found, output=OutputStore(tmp_path / "staged", place))
        wanted = [one for name, one in stored.composed.files().items() if "gull" in name]
        files = tuple(MadeFile(one.name, 900 if one.format == "webp" else 9, "", one.fingerprint) for one in wanted)
        ledger.remember(files, {})
        sent = Publishing(stored, ledger)(Made("gull.jpg", files, {}))
        assert {file.name.rpartition(".")[2] for file in sent} == {"jpg"} and len(sent) < len(files)
        assert Publishing(found, ledger)(Made("gull.jpg", files, {})) == [*files], "at home they are there already"


def test_what_was_left_behind_is_sent_first(tmp_path: Path) -> None:
    MemoryFileSystem().store.clear()
    place = StoredOutput("memory://shop/pictures", {"webp": "image/webp"})
    (tmp_path / "a.webp").write_bytes(b"123")
    with Ledger() as ledger:
        ledger.remember([MadeFile("a.webp", 3, "", "")], {})
        send_left_behind(OutputStore(tmp_path, place), ledger, Nobody())
        send_left_behind(OutputFolder(tmp_path), ledger, Nobody())
    assert place.store.get("a.webp") == b"123" and not (tmp_path / "a.webp").exists()
    with OutputFolder(tmp_path).sending() as send:
        finish(send, Nobody())
    assert send.left == 0


@pytest.mark.parametrize("name", ["a.webp", "a.css"])
def test_a_stylesheet_is_no_rendition(name: str) -> None:
    assert StoredOutput("memory://x", {"webp": "image/webp"}).is_rendition(name) == name.endswith("webp")
