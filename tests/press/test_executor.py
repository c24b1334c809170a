"""Where the work runs, and what becomes of it."""

import os
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from sarvel.press import executor, make
from sarvel.press.todo import Todo
from sarvel.press.work import Made, MasterWork


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
    rendered = executor.render(todo("a", "bad", "b", "c"), Path("none"), 2, lambda made: told.append(made.key))
    assert sorted(told) == ["a", "b", "bad", "c"]
    assert list(rendered.faults) == ["bad"] and rendered.kept == 3
    assert (
        rendered.faults["bad"]
        == "bad: the worker that decoded or encoded it died; save or copy it anew, or leave it out"
    )


def test_any_executor_can_take_the_place_of_the_processes(monkeypatch: pytest.MonkeyPatch) -> None:
    names: list[str] = []

    def work(of: MasterWork) -> Made:
        names.append(threading.current_thread().name)
        return Made(of.key, (), {})

    monkeypatch.setattr(make, "do_work", work)
    with ThreadPoolExecutor(2, thread_name_prefix="other") as pool:
        rendered = executor.render(todo("a", "b"), Path("none"), 5, pool=pool)
    assert not rendered.faults and all(name.startswith("other") for name in names) and len(names) == 2
