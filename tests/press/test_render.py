"""Where the work runs, what becomes of it, and who else is at work."""

import math
import os
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from sarvel.press import make, render
from sarvel.press.machine import alone_in, available_workers, share_of_container
from sarvel.press.render import Todo
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
    rendered = render.render(todo("a", "bad", "b", "c"), Path("none"), 2, lambda made: told.append(made.key))
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
        rendered = render.render(todo("a", "b"), Path("none"), 5, pool=pool)
    assert not rendered.faults and all(name.startswith("other") for name in names) and len(names) == 2


@pytest.mark.parametrize(
    ("files", "cores"),
    [
        ({}, math.inf),
        ({"cpu.max": "max 100000\n"}, math.inf),
        ({"cpu.max": "150000 100000\n"}, 1.5),
        ({"cpu/cpu.cfs_quota_us": "-1\n", "cpu/cpu.cfs_period_us": "100000\n"}, math.inf),
        ({"cpu/cpu.cfs_quota_us": "300000\n", "cpu/cpu.cfs_period_us": "100000\n"}, 3),
        ({"cpu.max": "what is this"}, math.inf),
    ],
    ids=["none", "no limit", "version 2", "version 1, no limit", "version 1", "odd"],
)
def test_containers_limits(tmp_path: Path, files: dict[str, str], cores: float) -> None:
    for name, text in files.items():
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).write_text(text)
    assert share_of_container(tmp_path) == cores
    assert 1 <= available_workers() <= (os.cpu_count() or 1)


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
