"""The time that is left, by what stands there."""

import os
import time
from pathlib import Path

import pytest

from sarvel.pipeline import pace
from sarvel.pipeline.pace import ProgressPoller


class Clock:
    """A clock that tells the time of a machine on which nothing else runs."""

    now, time = 0.0, staticmethod(time.time)

    def monotonic(self) -> float:
        return self.now


def test_files_are_counted_as_they_come_wherever_they_are_made(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """At an even pace, the time left is right within a half from the first tenth on: two costs, of which one is ten times the other."""
    costs = {f"{number}.webp": 0.02 * (1 + 9 * (number % 2)) for number in range(20)}
    (tmp_path / "0.webp").write_bytes(b"old")  # of an earlier run: it is made again, and counts then
    os.utime(tmp_path / "0.webp", (1, 1))
    told: list[tuple[int, float | None, float]] = []
    monkeypatch.setattr(pace, "time", clock := Clock())
    with ProgressPoller(
        {"m.jpg": costs}, tmp_path, 0, lambda count, left: told.append((count, left, clock.now))
    ) as watch:
        for name, cost in costs.items():
            clock.now += cost
            (tmp_path / name).write_bytes(b"x")
            watch._look()
        (tmp_path / "other.webp").write_bytes(b"x")
    end = told[-1][2]
    assert sum(count for count, _, _ in told) == 20
    for _, left, when in told[4:-6]:
        assert left is not None and 1 / 1.5 <= (left + 0.1) / (end - when + 0.1) <= 1.5


@pytest.mark.parametrize("unmade", [0, 1, 2])
def test_files_that_are_never_made_are_not_waited_for(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, unmade: int
) -> None:
    """Of each master some files are not made; the time left is right within a third from a tenth of the work on."""
    costs = {f"{number}.jpg": {f"{number}-{i}.webp": 1.0 for i in range(6)} for number in range(30)}
    told: list[tuple[float, float | None]] = []
    monkeypatch.setattr(pace, "time", clock := Clock())
    with ProgressPoller(costs, tmp_path, 0, lambda _, left: told.append((clock.now, left))) as watch:
        for key, files in costs.items():
            for name in list(files)[unmade:]:
                for _ in range(2):
                    clock.now += 0.5
                    watch._look()
                watch.made([name])
                watch._look()
            watch.finished(key)
    end = clock.now
    for when, left in told[len(told) // 10 : -1]:
        assert left is not None and abs(left - (end - when)) <= (end - when) / 3 + 2, when
    assert told[-1][0] == end and (told[-1][1] or 0) < 2
