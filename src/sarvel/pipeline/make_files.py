"""Files made by several workers: the work on each master, no matter where a worker runs.

What there is to do is data (`MasterWork`), and doing it is one function of that data (`do_work`), which local processes or the
workers of a cluster run.
"""

from __future__ import annotations

import contextlib
import itertools
import time
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from sarvel.core.amounts import duration
from sarvel.core.edition.rendition import Rendition
from sarvel.core.model import Effort
from sarvel.encode.work import Made, MasterWork
from sarvel.files.atomic import content_digest, sweep, write_whole
from sarvel.files.ledger import Ledger, MadeFile
from sarvel.files.ledger_entries import known_pace, remember_efforts, remember_pace
from sarvel.files.output_folder import OutputFolder
from sarvel.notices import Kind, Notice
from sarvel.pipeline.listener import Listener
from sarvel.pipeline.pace import ProgressPoller, cost_in_work, costs_of
from sarvel.pipeline.sending import finish
from sarvel.pipeline.todo import Todo
from sarvel.workers.cores import available_workers
from sarvel.workers.processes import each_done

if TYPE_CHECKING:  # few runs have one
    from sarvel.workers.cluster.coordinator import Cluster

# Seconds of one core for a pixel, all its formats and the search for their numbers: the demo on a machine of 2026.
_PACE: dict[Effort, float] = {"quick": 0.5e-6, "normal": 1e-6, "thorough": 4e-6}
_NAMED = 8  # masters in work that progress names
_LITTLE = 3_000_000  # px to encode: about a second's work, as long as a process takes to start


@dataclass
class Rendered:
    """The result of a run of the press.

    Attributes:
        made: names of files written by this run.
        faults: why masters could not be finished, by key.
        pruned: names of files that were removed, because the plan does not make them any more.
        altered: names of files that others had changed; they were made again.
    """

    made: list[str] = field(default_factory=list)
    kept: int = 0
    faults: dict[str, Notice] = field(default_factory=dict)
    pruned: list[str] = field(default_factory=list)
    altered: Sequence[str] = ()

    def add(self, other: Rendered) -> None:
        """Adds another part of the same run."""
        self.made += other.made
        self.kept += other.kept
        self.faults |= other.faults
        self.altered = [*self.altered, *other.altered]


def _died(work: MasterWork) -> Made:
    reason = "save or copy it again, or leave it out"
    return Made(work.key, (), {}, Notice(Kind.MASTER, work.key, "the worker that decoded or encoded it died", reason))


def _copied(copies: Mapping[Rendition, str], output: OutputFolder) -> Iterator[Made]:
    """Copies files that are the same as another one; if that one could not be made, nothing is copied."""
    files: list[MadeFile] = []
    for one, first in copies.items():
        with contextlib.suppress(FileNotFoundError):
            content = output.read(first)
            write_whole(output.folder / one.name, content)
            files.append(MadeFile(one.name, len(content), content_digest(content), one.fingerprint))
    if files:
        yield Made("copies", tuple(files), {})


def make_files(
    todo: Todo,
    output: OutputFolder,
    ledger: Ledger,
    workers: int | None,
    listener: Listener,
    cluster: Cluster | None = None,
    published: Callable[[Made], Sequence[MadeFile]] = lambda made: made.files,
) -> Rendered:
    """Does the work, reports progress, and remembers the results.

    Args:
        workers: as asked for; None takes as many as suit.
        cluster: who does it, if not this machine.
        published: tells which files of a master are sent to where they are published, if that is elsewhere.

    Raises:
        OutputError: the output folder cannot be written.
        ClusterError: the cluster went away.
    """
    workers = max(1, cluster.threads) if cluster else workers or workers_for(todo)
    remember_efforts(ledger, [effort for work in todo.works for effort in work.efforts])
    started = time.monotonic()
    left = {work.key: work.pixel_count for work in todo.works}
    whole = sum(left.values())
    result = Rendered(kept=todo.kept, altered=todo.altered)
    with output.sending() as send, listener.progress("rendering", todo.count, timed=False) as advance:

        def stands(count: int, seconds: float | None) -> None:
            advance(count, _in_work(list(left), workers, seconds))

        advance(0, _in_work(list(left), workers, None))
        poller = ProgressPoller(costs_of(todo.works), output.folder, cost_in_work(todo.works, workers), stands)
        with poller, contextlib.ExitStack() as ending:
            works: Iterator[Made] = iter(())
            if todo.works:
                from sarvel.workers.make import do_work  # slow to load

                ending.callback(sweep, output.folder)  # killed workers leave half-written files
                done = (
                    cluster.each_done(todo.works, output) if cluster else each_done(do_work, todo.works, workers, _died)
                )
                works = ending.enter_context(contextlib.closing(done))
            for made in itertools.chain(works, _copied(todo.copies, output)):
                result.made += [file.name for file in made.files]
                result.faults |= {made.key: made.fault} if made.fault else {}
                left.pop(made.key, None)
                poller.made(file.name for file in made.files)
                if not cluster:  # whose workers give parts of a master
                    poller.finished(made.key)
                ledger.remember(made.files, made.findings)
                send(published(made))
                pace = (whole - sum(left.values())) / 1e6 / max(0.001, time.monotonic() - started)
                listener.step(f"{made.key}: {len(made.files)} files made, {pace:.1f} MP/s")
        if send.left:
            finish(send, listener)
    if whole and not cluster:
        remember_pace(ledger, _effort(todo), (time.monotonic() - started) * workers / whole)
    return result


def _in_work(left: list[str], workers: int, seconds: float | None) -> str:
    """The time left, and the masters in work, which is in the order of the work."""
    time_left = "" if seconds is None else f"{duration(seconds)} left"
    named = ", ".join(left[: min(workers, _NAMED)])
    more = f" and {min(workers, len(left)) - _NAMED} more" if min(workers, len(left)) > _NAMED else ""
    return " · ".join(filter(None, [time_left, named + more]))


def workers_for(todo: Todo) -> int:
    """The number of workers for some work: one for each core, but a single one for little work."""
    return available_workers() if sum(work.pixel_count for work in todo.works) > _LITTLE else 1


def estimate(todo: Todo, ledger: Ledger, workers: int | None) -> tuple[float, bool]:
    """Seconds that the work may take, and whether that follows an earlier run; else it follows the pixels alone."""
    effort = _effort(todo)
    known = known_pace(ledger, effort)
    pixels = sum(work.pixel_count for work in todo.works)
    seconds = pixels * (_PACE[effort] if known is None else known) / (workers or workers_for(todo))
    return round(seconds, 1), known is not None


def _effort(todo: Todo) -> Effort:
    """The effort of most of the work."""
    pixels = sum((work.efforts for work in todo.works), Counter[Effort]())
    return max(pixels, key=lambda effort: pixels[effort], default="normal")
