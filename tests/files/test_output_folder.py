"""The folder of renditions and the entries of the ledger, on files."""

from pathlib import Path

import pytest

from sarvel.core.crop.place import Box
from sarvel.core.edition.encoding import EncoderNumbers
from sarvel.core.facts import FoundSubject
from sarvel.errors import OutputError
from sarvel.files.ledger import Ledger, MadeFile
from sarvel.files.ledger_entries import (
    as_finding,
    known_numbers,
    known_pace,
    known_placeholders,
    known_subject,
    remember_pace,
    remember_subject,
    search_key,
)  # fmt: skip
from sarvel.files.output_folder import OutputFolder, prune, weights_of
from sarvel.workers import life as worker_process
from tests.core.edition.test_compose import BANNER, composed

EDITION = composed(BANNER)
FILES = [one for picture in EDITION.pictures.values() for one in picture.renditions()]


def test_weights_by_name_by_fingerprint_and_by_what_stands_there(tmp_path: Path) -> None:
    first, second, third, *_ = FILES
    (tmp_path / third.name).write_bytes(b"123")
    with Ledger() as ledger:
        ledger.remember(
            [MadeFile(first.name, 11, "", first.fingerprint), MadeFile("renamed.webp", 22, "", second.fingerprint)], {}
        )
        assert weights_of(EDITION, OutputFolder(tmp_path), ledger) == {first.name: 11, second.name: 22, third.name: 3}


def test_only_what_is_ours_and_named_nowhere_is_pruned(tmp_path: Path) -> None:
    output = OutputFolder(tmp_path)
    for name in (FILES[0].name, "old.webp", "named.webp", "other.txt", "none of \udcff ours.webp"):
        (tmp_path / name).write_bytes(b"1")
    with Ledger() as ledger:
        ledger.remember([MadeFile(name, 1, "", name) for name in (FILES[0].name, "old.webp", "named.webp")], {})
        assert prune({FILES[0].name}, output, ledger, {"named.webp"}) == ["old.webp"]
    assert set(output.names()) == {FILES[0].name, "named.webp", "other.txt", "none of \udcff ours.webp"}
    output.discard(["other.txt", "none"])
    assert output.sizes(["named.webp", "other.txt", "none"]) == {"named.webp": 1}
    assert not OutputFolder(tmp_path / "none").sizes(["a"]) and not list(OutputFolder(tmp_path / "none").names())


def test_a_folder_that_cannot_be_read_is_told_of(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    def denied(_: object) -> object:
        raise PermissionError(13, "Permission denied")

    for function, ask in (("os.scandir", OutputFolder.names), ("os.stat", lambda output: output.sizes(["a"]))):
        with monkeypatch.context() as patch:
            patch.setattr(function, denied)
            with pytest.raises(OutputError, match="cannot be read \\(Permission denied\\); check its permissions"):
                list(ask(OutputFolder(tmp_path)))


def test_entries_come_back_as_they_were() -> None:
    search = next(one.encoding.search for one in FILES if one.encoding.search)
    numbers, subject = EncoderNumbers(((640, 50, 93.1),)), FoundSubject(Box(0.1, 0.2, 0.3, 0.4), 0.5)
    with Ledger() as ledger:
        assert (
            known_pace(ledger, "quick") is None
            and known_subject(ledger, "ab") is None
            and known_numbers(ledger, EDITION) == {}
        )
        ledger.remember([], {search_key(search.key): as_finding(numbers)})
        remember_pace(ledger, "quick", 0.25)
        remember_subject(ledger, "ab", subject)
        assert (known_pace(ledger, "quick"), known_subject(ledger, "ab"), known_numbers(ledger, EDITION)) == (
            0.25,
            subject,
            {search.key: numbers},
        )
        assert known_placeholders(ledger, EDITION) == {}


def test_a_process_that_works_itself_has_no_parent_to_die_with(monkeypatch: pytest.MonkeyPatch) -> None:
    assert worker_process.parent_lives()
    monkeypatch.setattr(worker_process, "_parent", -1)
    assert not worker_process.parent_lives()
