"""Other programs that write a page while Sarvel is at work: nothing that they save is lost."""

import os
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from sarvel.files import writers
from sarvel.files.atomic import holds
from sarvel.files.writers import is_held, wait_until_still
from tests.conftest import PAGE, run_sarvel

pytestmark = pytest.mark.skipif(not hasattr(os, "O_CLOEXEC") or os.name == "nt", reason="only Linux tells who writes")

PARTS = [PAGE.encode()[at : at + 40] for at in range(0, len(PAGE.encode()), 40)]


def slowly(page: Path, how: str, begun: threading.Event) -> None:
    """Saves a page in pieces in place: held open all the time, or opened again for each piece."""
    if how == "opened again":
        page.write_bytes(b"")
    with page.open("r+b" if how == "read and write" else "wb" if how == "held" else "ab", buffering=0) as file:
        file.truncate(0)
        begun.set()
        for part in PARTS:
            time.sleep(0.15)
            if how == "opened again":
                with page.open("ab") as again:
                    again.write(part)
            else:
                file.write(part)


@pytest.mark.parametrize("command", [["weave"], ["weave", "--undo"], ["build", "--workers", "1"]], ids=" ".join)
@pytest.mark.parametrize("how", ["held", "read and write"])
def test_a_page_that_is_saved_slowly_is_waited_for(rendered: Path, how: str, command: list[str]) -> None:
    page, begun = rendered / "pages" / "index.html", threading.Event()
    page.write_text(PAGE.replace("Kept", "Before"))
    assert run_sarvel("weave", cwd=rendered).returncode == 0
    editor = threading.Thread(target=slowly, args=(page, how, begun))
    editor.start()
    assert begun.wait(30)
    done = run_sarvel(*command, cwd=rendered)
    editor.join()
    assert done.returncode == 0 and page.read_text().count("data-woven=") == (0 if "--undo" in command else 2)
    assert run_sarvel("weave", "--undo", cwd=rendered).returncode == 0 and page.read_text() == PAGE


@pytest.fixture
def held(rendered: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    """A page that another program keeps open for writing."""
    monkeypatch.setattr(writers, "_PATIENCE", 0.5)
    page = rendered / "pages" / "index.html"
    with page.open("ab"):
        yield page


def test_a_page_that_stays_open_for_writing_is_left_and_reported(held: Path, rendered: Path) -> None:
    done = run_sarvel("weave", cwd=rendered)
    assert done.returncode == 1 and held.read_text() == PAGE
    assert "index.html: another program has it open for writing; save and close it there, then run again" in done.stderr


def test_who_holds_a_file_and_who_does_not(tmp_path: Path) -> None:
    file = tmp_path / "a"
    file.write_bytes(b"a")
    assert not is_held(file) and not is_held(tmp_path / "none") and holds(file, b"a")()
    with file.open("rb"):
        assert not is_held(file)
    with file.open("ab"):
        assert is_held(file) and not holds(file, b"a")()


def test_old_files_are_not_waited_for(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(time, "sleep", lambda _: pytest.fail("waits"))
    file = tmp_path / "a"
    for number in range(200):  # each at another time, which is rounded in another way
        file.write_bytes(b"a")
        os.utime(file, (time.time() - 9, time.time() - 9 - number / 97))
        assert wait_until_still(file)
    assert wait_until_still(tmp_path / "none")


def test_a_file_is_still_when_it_has_not_changed_for_a_moment(tmp_path: Path) -> None:
    file, texts = tmp_path / "a", list[str]()

    def write() -> None:
        for number in range(8):
            file.write_text(str(number))
            time.sleep(0.1)

    file.write_text("")
    editor = threading.Thread(target=write)
    editor.start()
    assert wait_until_still(file)
    texts.append(file.read_text())
    editor.join()
    assert texts == ["7"]
