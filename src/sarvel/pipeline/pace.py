"""The progress of a run, by the files that exist, no matter where they are made; and the remaining time."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path
from types import TracebackType
from typing import Self

from sarvel.encode.work import MasterWork, seconds_of

_LOOK = 0.5  # s between looks, and not more than a twentieth of the time
_FIRST = 0.03  # of the work, before which nothing is predicted


def costs_of(works: Iterable[MasterWork]) -> dict[str, float]:
    """About how long each file takes, next to the others, by name."""
    return {one.name: seconds_of(one) for work in works for crop in work.crops for one in crop.renditions}


def seconds_left(done: float, whole: float, elapsed: float) -> float | None:
    """The remaining seconds of a run.

    Args:
        done: the cost of the finished work.

    Returns:
        None while too little is done to tell.
    """
    return elapsed * (whole - done) / done if whole > 0 and done / whole >= _FIRST else None


class ProgressPoller:
    """Looks again and again at which files are there, and describes it, until the block ends."""

    def __init__(
        self, costs: Mapping[str, float], output: Path, workers: int, tell: Callable[[int, float | None], None]
    ) -> None:
        """Begins with nothing done.

        Args:
            costs: of the files that are made, by name, s of one core.
            workers: how many are made at one time.
            tell: called with how many more are there, and the seconds left; from a thread of its own.
        """
        self._left, self._whole = dict(costs), sum(costs.values())
        self._folder, self._workers, self._tell = f"{output}{os.sep}", workers, tell
        self._made: set[str] = set()
        self._first: float | None = None  # when about the first file was begun, for workers take a while to start
        self._ends = threading.Event()
        self._thread = threading.Thread(target=self._watch, daemon=True)

    def __enter__(self) -> Self:
        """Begins to look."""
        self._clock = time.time()
        self._thread.start()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        """Looks once more, and ends."""
        self._ends.set()
        self._thread.join()
        self._look()

    def _watch(self) -> None:
        pause = _LOOK
        while not self._ends.wait(pause):
            began = time.monotonic()
            self._look()
            pause = max(_LOOK, 20 * (time.monotonic() - began))

    def _look(self) -> None:
        new = [name for name in self._written() if self._left.pop(name, None) is not None]
        done = self._whole - sum(self._left.values())
        now = time.monotonic()
        if new and self._first is None:
            self._first = now - done / self._workers
        self._tell(len(new), seconds_left(done, self._whole, now - self._first) if self._first is not None else None)

    def made(self, names: Iterable[str]) -> None:
        """Hears of files that were made, and that may be gone before anyone looks: to where they are published."""
        self._made.update(names)

    def _written(self) -> list[str]:
        """Names of files of this run that were made; files that are made again count once they are new."""
        return [name for name in list(self._left) if name in self._made or self._is_new(name)]

    def _is_new(self, name: str) -> bool:
        try:
            return os.stat(f"{self._folder}{name}").st_mtime >= self._clock - 1  # noqa: PTH116 - thousands of them
        except OSError:
            return False
