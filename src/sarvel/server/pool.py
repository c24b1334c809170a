"""Worker processes that render, each for one file at a time: urgent files first, others when a worker is idle.

A worker that takes too long, or dies, is replaced; its work fails, and no other.
"""

from __future__ import annotations

import heapq
import itertools
import threading
import time
from concurrent.futures import Future
from dataclasses import dataclass, field

from sarvel.encode.work import Made, MasterWork
from sarvel.workers.render_process import DiedError, GivenUpError, RenderProcess

_TRIES = 2  # of work whose worker died, before it is given up


class FullError(Exception):
    """There is so much to do that no more is taken."""


@dataclass(order=True)
class _Job:
    rank: int
    number: int
    work: MasterWork = field(compare=False)
    done: Future[Made] = field(compare=False)
    tries: int = field(default=0, compare=False)


class Pool:
    """Worker processes, and what waits for them."""

    def __init__(self, workers: int, bound: int, longest: float) -> None:
        """Begins without any process; each is started when there is work for it.

        Args:
            workers: processes at most, >= 1.
            bound: work that may wait, >= 1.
            longest: s after which work is given up.
        """
        self._bound, self._longest = bound, longest
        self._jobs: list[_Job] = []
        self._numbers = itertools.count()
        self._some = threading.Condition()
        self._at_leisure, self._most_at_leisure = 0, max(1, workers - 1)
        self._busy = 0
        self._ends = False
        self.workers = workers
        self.seconds = 1.0  # that work took lately, on average
        self._threads = [threading.Thread(target=self._work, daemon=True) for _ in range(workers)]
        for thread in self._threads:
            thread.start()

    @property
    def waiting(self) -> int:
        """How much work that someone waits for is not begun."""
        with self._some:
            return sum(job.rank == 0 for job in self._jobs)

    @property
    def busy(self) -> int:
        """How many workers are at work."""
        return self._busy

    def submit(self, work: MasterWork, *, urgent: bool) -> Future[Made]:
        """Takes work.

        Args:
            urgent: whether someone waits for it; else it is done when a worker has nothing else to do.

        Returns:
            The result; it may raise GivenUpError, or the error of the work.

        Raises:
            FullError: too much waits already.
        """
        rank, done = (0 if urgent else 1), Future[Made]()
        with self._some:
            if self._ends or sum(job.rank == rank for job in self._jobs) >= self._bound:
                raise FullError
            heapq.heappush(self._jobs, _Job(rank, next(self._numbers), work, done))
            self._some.notify()
        return done

    def close(self) -> None:
        """Ends all workers; unfinished work fails."""
        with self._some:
            self._ends = True
            left, self._jobs = self._jobs, []
            self._some.notify_all()
        for job in left:
            if job.tries or job.done.set_running_or_notify_cancel():
                job.done.set_exception(GivenUpError("the server ends"))
        for thread in self._threads:
            thread.join(5)

    def _work(self) -> None:
        """The life of one thread: it holds one process."""
        process: RenderProcess | None = None
        while job := self._next():
            process = process if process and process.lives() else RenderProcess(polite=True)
            began = time.monotonic()
            try:
                made = process.do(job.work, self._longest, lambda: self._ends)
            except DiedError:
                process.close()
                self._again(job)
            except Exception as error:  # noqa: BLE001 - the caller receives it
                if isinstance(error, GivenUpError):
                    process.close()
                self._told(job, error)
            else:
                self.seconds += 0.2 * (time.monotonic() - began - self.seconds)
                self._told(job, made)
        if process:
            process.close()

    def _next(self) -> _Job | None:
        """The next work; None when all ends."""
        with self._some:
            while not self._ends:
                if self._jobs and (self._jobs[0].rank == 0 or self._at_leisure < self._most_at_leisure):
                    job = heapq.heappop(self._jobs)
                    if not job.tries and not job.done.set_running_or_notify_cancel():
                        continue
                    self._busy += 1
                    self._at_leisure += job.rank
                    return job
                self._some.wait()
            return None

    def _ended(self, job: _Job) -> None:
        with self._some:
            self._busy -= 1
            self._at_leisure -= job.rank
            self._some.notify()

    def _told(self, job: _Job, result: Made | Exception) -> None:
        self._ended(job)
        if isinstance(result, Exception):
            job.done.set_exception(result)
        else:
            job.done.set_result(result)

    def _again(self, job: _Job) -> None:
        """Work whose worker died: another try, and then no more."""
        job.tries += 1
        if job.tries < _TRIES and not self._ends:
            self._ended(job)
            with self._some:
                heapq.heappush(self._jobs, job)
                self._some.notify()
            return
        self._told(job, GivenUpError("the worker that decoded or encoded it died"))
