"""Runs in one folder take turns."""

import threading
from pathlib import Path

import pytest

from sarvel.files.folder_lock import alone_in


def test_two_runs_take_turns(tmp_path: Path) -> None:
    order: list[str] = []
    inside, waits = threading.Event(), threading.Event()

    def second() -> None:
        inside.wait(10)
        with alone_in(tmp_path / "out", waits.set):
            order.append("second")

    thread = threading.Thread(target=second)
    thread.start()
    with alone_in(tmp_path / "out", lambda: pytest.fail("nobody is there yet")):
        inside.set()
        assert waits.wait(10)
        order.append("first")
    thread.join(10)
    assert order == ["first", "second"]
    assert list((tmp_path / "out").iterdir()) == []
