"""The press as commands run it: alone in its folder, with progress, and all that it finds out kept in the ledger."""

from __future__ import annotations

import contextlib
import json
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from sarvel.cli.speak import Speaker
from sarvel.press.files import sweep
from sarvel.press.ledger import Ledger
from sarvel.press.machine import alone_in, available_workers
from sarvel.press.render import Rendered, Todo, render
from sarvel.press.work import Made

_LITTLE = 3_000_000  # px to encode: about a second's work, as long as a process takes to start
_PACE = "pace"  # under which the ledger keeps the seconds that a worker took for a pixel


@contextlib.contextmanager
def alone(output: Path, speaker: Speaker) -> Iterator[None]:
    """While the block runs, nobody else writes renditions there; what runs that were killed left half is swept out."""
    with alone_in(output, lambda: speaker.notes([f"{output}: another run is writing there; waiting for it"])):
        sweep(output)
        yield


def run_press(todo: Todo, output: Path, ledger: Ledger, workers: int | None, speaker: Speaker) -> Rendered:
    """Does the work, shows how it goes, and remembers what came of it.

    Args:
        todo: the work.
        output: where renditions go.
        ledger: what is to remember.
        workers: as asked for; None takes as many as suit.
        speaker: what shows it.
    """
    workers = workers or workers_for(todo)
    started = time.monotonic()
    left = {work.key: work.cost for work in todo.works}
    whole = sum(left.values())
    with speaker.progress("rendering", todo.count) as advance:

        def pace() -> str:
            return f"{(whole - sum(left.values())) / 1e6 / max(0.001, time.monotonic() - started):.1f} MP/s"

        def done(made: Made) -> None:
            left.pop(made.key, None)
            ledger.remember(((file.name, file.size, file.digest) for file in made.files), made.findings)
            advance(len(made.files), _in_work(list(left), workers, pace))
            speaker.step(f"{made.key}: {len(made.files)} files made, {pace()}")

        advance(0, _in_work(list(left), workers, lambda: ""))
        rendered = render(todo, output, workers, done)
    if todo.works:
        seconds = time.monotonic() - started
        ledger.remember([], {_PACE: json.dumps(seconds * min(workers, len(todo.works)) / max(1, whole))})
    return rendered


def _in_work(left: list[str], workers: int, pace: Callable[[], str]) -> str:
    """Which masters are being worked on, which is in the order of the work, and how fast."""
    return " · ".join(filter(None, [pace(), ", ".join(left[:workers])]))


def workers_for(todo: Todo) -> int:
    """As many as there are cores; but one for little work, which is done before another would have started."""
    return available_workers() if sum(work.cost for work in todo.works) > _LITTLE else 1


def estimate(todo: Todo, ledger: Ledger, workers: int | None) -> float | None:
    """Seconds that the work may take; None if there was no run to go by."""
    said = ledger.finding(_PACE)
    if said is None:
        return None
    pace = float(json.loads(said))
    costs = [work.cost * pace for work in todo.works]
    return round(max(sum(costs) / (workers or workers_for(todo)), max(costs, default=0.0)), 1)
