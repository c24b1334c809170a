"""Worker processes that render, each for one file at a time: what is asked for first, what may wait when one is idle.

A worker that takes too long, or dies, is replaced; its work fails, and no other.
"""

from __future__ import annotations

import contextlib
import heapq
import itertools
import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass, field
from multiprocessing import get_context
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from typing import Any, cast

from sarvel.encode.work import Made, MasterWork

_NICE = 10  # what is there already is served before what is not is made
_TRIES = 2  # of work whose worker died, before it is given up


class FullError(Exception):
    """There is so much to do that no more is taken."""


class GivenUpError(Exception):
    """Work took too long, or killed its workers. Its text says which."""


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
        """How much work that somebody waits for is not begun."""
        with self._some:
            return sum(job.rank == 0 for job in self._jobs)

    @property
    def busy(self) -> int:
        """How many workers are at work."""
        return self._busy

    def submit(self, work: MasterWork, *, urgent: bool) -> Future[Made]:
        """Takes work.

        Args:
            urgent: whether somebody waits for it; else it is done when a worker has nothing else to do.

        Returns:
            What comes of it; it may raise GivenUpError, or what the work raises.

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
        """Ends all workers; what is not done fails."""
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
        hand: _Hand | None = None
        while job := self._next():
            hand = hand if hand and hand.lives() else _Hand()
            began = time.monotonic()
            try:
                made = hand.do(job.work, self._longest, lambda: self._ends)
            except _DiedError:
                hand.close()
                self._again(job)
            except Exception as error:  # noqa: BLE001 - whoever asked for it hears what it was
                if isinstance(error, GivenUpError):
                    hand.close()
                self._told(job, error)
            else:
                self.seconds += 0.2 * (time.monotonic() - began - self.seconds)
                self._told(job, made)
        if hand:
            hand.close()

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


class _DiedError(Exception):
    """The process is gone."""


class _Hand:
    """One process."""

    def __init__(self) -> None:
        from sarvel.workers.life import interrupts_held

        context = get_context("spawn")
        self._line, theirs = context.Pipe()
        lifeline, self._held = context.Pipe(duplex=False)
        self._process: BaseProcess = context.Process(
            target=_serve, args=(theirs, lifeline, os.getpid()), daemon=True, name="sarvel render"
        )
        with interrupts_held():
            self._process.start()
        theirs.close()
        lifeline.close()

    def lives(self) -> bool:
        """Tells whether the process is there."""
        return self._process.is_alive()

    def do(self, work: MasterWork, longest: float, ends: Callable[[], bool]) -> Made:
        """Has work done.

        Raises:
            GivenUpError: it took longer than s allow, or the server ends.
            _DiedError: the process is gone.
        """
        try:
            self._line.send(work)
            end = time.monotonic() + longest
            while not self._line.poll(0.1):
                if time.monotonic() > end:
                    raise GivenUpError(f"it took more than {longest:g} s")
                if ends():
                    raise GivenUpError("the server ends")
            is_made, result = self._line.recv()
        except (EOFError, OSError) as error:
            raise _DiedError from error
        if is_made:
            return cast("Made", result)
        raise result

    def close(self) -> None:
        """Ends the process."""
        with contextlib.suppress(OSError):
            self._held.close()
        self._process.kill()
        self._process.join(2)
        self._line.close()


def _serve(line: Connection, lifeline: Connection, parent: int) -> None:
    """The life of a process: work after work, until the server is gone."""
    from sarvel.workers.life import live_with

    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    live_with(lifeline, parent)
    if hasattr(os, "nice"):
        os.nice(_NICE)
    from sarvel.workers.make import do_work

    with contextlib.suppress(EOFError, OSError):
        while True:
            work = line.recv()
            answer: tuple[bool, Any]
            try:
                answer = True, do_work(work)
            except Exception as error:  # noqa: BLE001 - told to whoever asked
                answer = False, error
            line.send(answer)
