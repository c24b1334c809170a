"""Where the work runs, and what becomes of it."""

import os
from pathlib import Path

import pytest

from sarvel.encode.work import Made, MasterWork
from sarvel.files.ledger import Ledger
from sarvel.files.output_folder import OutputFolder
from sarvel.pipeline import make_files
from sarvel.pipeline.listener import Nobody
from sarvel.pipeline.todo import Todo
from sarvel.workers import make


def deadly(work: MasterWork) -> Made:
    """In the place of do_work: one master takes its worker with it."""
    if work.key == "bad":
        os._exit(9)
    return Made(work.key, (), {})


def todo(*keys: str) -> Todo:
    return Todo([MasterWork(key, Path(key), "", Path("none"), ()) for key in keys], {}, 3)


def test_a_worker_that_dies_is_its_masters_fault_alone(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(make, "do_work", deadly)
    told: list[str] = []

    class Heard(Nobody):
        def step(self, text: str) -> None:
            told.append(text.partition(":")[0])

    work = todo("a", "bad", "b", "c")
    rendered = make_files.make_files(work, OutputFolder(Path("none")), Ledger(), 2, Heard())
    assert sorted(told) == ["a", "b", "bad", "c"]
    assert list(rendered.faults) == ["bad"] and rendered.kept == 3
    assert (
        str(rendered.faults["bad"])
        == "bad: the worker that decoded or encoded it died; save or copy it again, or leave it out"
    )
