"""The progress of a run, by the files that exist, no matter where they are made; and the remaining time."""

from __future__ import annotations

import os
import threading
import time
from collections.abc import Callable, Iterable, Mapping, Sequence
from pathlib import Path
from types import TracebackType
from typing import Self

from sarvel.encode.work import MasterWork, seconds_of

_LOOK = 0.5  # s between looks, and not more than a twentieth of the time
_FIRST = 0.03  # of the work, before which nothing is predicted
_MADE = 0.85  # of the cost of a master's files: others are of formats that are found out early not to pay (the demo)
_SURE = 0.1  # of the work: once so much is finished, that share counts as much as this number
_LEAST = 0.5  # of the seconds that were left at the last file: the time left never falls below that until the next file


def costs_of(works: Iterable[MasterWork]) -> dict[str, dict[str, float]]:
    """About how long each file takes, next to the others, by the key of its master and its name."""
    costs: dict[str, dict[str, float]] = {}
    for work in works:
        costs.setdefault(work.key, {}).update(
            (one.name, seconds_of(one)) for crop in work.crops for one in crop.renditions
        )
    return costs


def cost_in_work(works: Sequence[MasterWork], workers: int) -> float:
    """About the cost of the work that is begun at any time and done in part: on average, half a crop for each worker."""
    crops = [crop.estimated_seconds for work in works for crop in work.crops]
    return workers * sum(one * one for one in crops) / sum(crops) / 2 if any(crops) else 0.0


class ProgressPoller:
    """Looks again and again at which files are there, and describes it, until the block ends."""

    def __init__(
        self,
        costs: Mapping[str, Mapping[str, float]],
        output: Path,
        in_work: float,
        tell: Callable[[int, float | None], None],
    ) -> None:
        """Begins with nothing done.

        Args:
            costs: of the files that are made, by master and name, s of one core.
            in_work: the cost of the files that are begun at any time, as far as they are done.
            tell: called with how many more are there, and the seconds left; from a thread of its own.
        """
        self._costs = costs
        self._left = {name: cost for files in costs.values() for name, cost in files.items()}
        whole = sum(self._left.values())
        self._done, self._least, self._in_work = 0.0, _FIRST * whole, in_work
        self._finished, self._unmade = _SURE * whole, (1 - _MADE) * _SURE * whole
        self._folder, self._tell = f"{output}{os.sep}", tell
        self._made: set[str] = set()
        self._last: tuple[float, float | None] = 0.0, None  # when the last one came, and the seconds left then
        self._ends = threading.Event()
        self._thread = threading.Thread(target=self._watch, daemon=True)

    def __enter__(self) -> Self:
        """Begins to look."""
        self._clock, self._began = time.time(), time.monotonic()
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
        new = {name: self._left.pop(name) for name in self._written() if name in self._left}
        self._done += sum(new.values())
        now, (when, seconds) = time.monotonic(), self._last
        if new and self._done >= self._least:
            left = sum(list(self._left.values())) * (1 - self._unmade / self._finished)
            begun = min(self._in_work, left / 2)
            when, seconds = self._last = now, (now - self._began) * (left - begun) / (self._done + begun)
        self._tell(len(new), None if seconds is None else max(seconds - (now - when), _LEAST * seconds))

    def made(self, names: Iterable[str]) -> None:
        """Hears of files that were made, and that may be gone before anyone looks: to where they are published."""
        self._made.update(names)

    def finished(self, key: str) -> None:
        """Hears that a master is finished: its files that were not made are not going to be."""
        files = self._costs.get(key, {})
        unmade = [name for name in files if name not in self._made and self._left.pop(name, None) is not None]
        self._finished += sum(files.values())
        self._unmade += sum(files[name] for name in unmade)

    def _written(self) -> list[str]:
        """Names of files of this run that were made; files that are made again count once they are new."""
        return [name for name in list(self._left) if name in self._made or self._is_new(name)]

    def _is_new(self, name: str) -> bool:
        try:
            return os.stat(f"{self._folder}{name}").st_mtime >= self._clock - 1  # noqa: PTH116 - thousands of them
        except OSError:
            return False
