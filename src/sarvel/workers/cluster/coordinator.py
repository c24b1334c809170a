"""The coordinator: sends work to the workers of a dask scheduler, a few units at a time, and collects the results.

Workers and the scheduler may fail; each unit of work still has one result: it is done whole or not at all, so a unit that
was lost is simply done again, and gives the same bytes.
"""

from __future__ import annotations

import contextlib
import logging
import secrets
import time
import warnings
from collections import Counter, deque
from collections.abc import Callable, Generator, Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, wait
from dataclasses import dataclass, field, replace
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING, Any, Self

from sarvel.core.amounts import counted
from sarvel.encode.masters import taken
from sarvel.encode.work import Made, MasterWork
from sarvel.errors import ClusterError, MasterError, SarvelError, first_line
from sarvel.files.atomic import PART, write_whole
from sarvel.files.output_folder import OutputFolder
from sarvel.notices import Kind, Notice
from sarvel.workers.cluster.identity import difference, identity
from sarvel.workers.cluster.task import Identity, Reply, Task
from sarvel.workers.cluster.worker import do_task

if TYPE_CHECKING:  # slow to load
    from distributed import Client

PATIENCE = 120.0
"""Seconds without a scheduler, or without a worker, before a run gives up."""

_TRIES = 2  # of a master that kills the process that works on it
_SHORT = 1.0  # s of one core, up to which a work is sent to lie ready: a long one would wait there while another worker is idle
_PARTS = 4  # of all work for each thread, so that the last ones end at about one time; each decodes its master again
_LEAST = 5.0  # s of one core, below which a master is not done in parts
_LOOK = 1.0  # s between looks at which workers there are
_SLOWER = 10.0  # times what a work takes on one core here that a busy worker may take
_CONNECT = 10.0  # s for one try to reach the scheduler


@dataclass
class _Out:
    """A work that is deployed.

    Attributes:
        travels: whether its master is sent too.
    """

    work: MasterWork
    travels: bool


@dataclass
class Cluster:
    """The workers of a dask scheduler; a context that releases them, and cancels work that they have not begun.

    Attributes:
        address: of the scheduler, such as "tcp://10.0.0.5:8786".
        tell: called with a line for the user.
    """

    address: str
    tell: Callable[[str], None]
    patience: float = PATIENCE
    _client: Client | None = None
    _threads: dict[str, int] = field(default_factory=dict)  # of each worker that may be used, by its address
    _refused: set[str] = field(default_factory=set)
    _seen: float = 0.0  # when there was a scheduler and a worker last

    def __enter__(self) -> Self:
        """Reaches the scheduler, and holds the versions of its workers against ours.

        Raises:
            ClusterError: it cannot be reached, there is no worker, or all are of other versions.
        """
        try:
            self._client = self._reached()
            self._compare()
            self._look()
        except (OSError, TimeoutError) as error:
            self._let_go()
            raise ClusterError.at(
                self.address, f"went away at once ({first_line(error)})", "see to it, and run again"
            ) from error
        except BaseException:  # an interrupt among them
            self._let_go()
            raise
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        """Lets go; tasks that no worker has begun are cancelled with it."""
        self._let_go()

    @property
    def threads(self) -> int:
        """How many works are done at one time; 0 while there is no worker."""
        return sum(self._threads.values())

    def each_done(self, works: Sequence[MasterWork], output: OutputFolder) -> Generator[Made, None, None]:
        """Does the work, and yields results in the order in which they are ready.

        Raises:
            OutputError: the folder cannot be written.
            ClusterError: there was no scheduler or no worker for too long.
        """
        with _marked(output.folder) as mark:
            most = sum(work.estimated_seconds for work in works) / (max(1, self.threads) * _PARTS)
            parts = [part for work in works for part in work.parts(max(_LEAST, most))]
            yield from _Run(self, deque(parts), output, mark).results()

    def submit(self, task: Task) -> Future[Reply]:
        """Sends a task out, to any worker that may be used."""
        assert self._client is not None  # noqa: S101 - inside the block
        only = {"workers": sorted(self._threads)} if self._refused else {}
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")  # a master that travels is large
            future: Future[Reply] = self._client.get_executor(pure=False).submit(do_task, task, **only)  # type: ignore[no-untyped-call] # of dask
        return future

    def refuse(self, address: str) -> None:
        """Uses a worker no more, whose versions are not ours."""
        if address not in self._refused:
            self._refused.add(address)
            self._threads.pop(address, None)
            self.tell(f"{address}: is of another version than this program, and gets no work")

    def look(self) -> bool:
        """Looks at which workers there are; reaches the scheduler again if it went away.

        Returns:
            Whether it was reached again: work sent before will not be answered any more.

        Raises:
            ClusterError: there was none of either for too long.
        """
        is_gone = self._client is None or self._client.status != "running"
        if is_gone:
            self._let_go()
            self.tell(f"{self.address}: the scheduler does not answer; waiting for it")
            self._client = self._reached()
        self._look()
        return is_gone

    def _look(self) -> None:
        assert self._client is not None  # noqa: S101 - reached
        client: Any = self._client
        try:  # as its `nthreads`, which waits without end for a scheduler that hangs
            there: dict[str, int] = client.sync(client.scheduler.ncores, workers=None, callback_timeout=_CONNECT)
        except (OSError, TimeoutError, RuntimeError, AttributeError):  # it went away this moment
            there = {}
        self._threads = {name: count for name, count in there.items() if name not in self._refused}
        now = time.monotonic()
        if self._threads or not self._seen:
            self._seen = now
        elif now - self._seen > self.patience:
            raise ClusterError.at(
                self.address,
                f"no worker for {self.patience:g} s; finished files are kept",
                "start workers, and run again",
            )

    def _reached(self) -> Client:
        """A client of the scheduler, as soon as there is one.

        Raises:
            ClusterError: there has been no worker for too long.
        """
        from distributed import Client

        for name in (
            "distributed",
            "distributed.client",
            "tornado.application",
            "asyncio",
        ):  # what there is to say, we say
            logging.getLogger(name).setLevel(logging.CRITICAL)
        is_again = self._seen > 0
        end = time.monotonic() + (self.patience if is_again else 0)
        while True:
            try:
                return Client(self.address, timeout=_CONNECT, set_as_default=False)  # type: ignore[no-untyped-call] # of dask
            except (OSError, TimeoutError, ValueError) as error:
                if time.monotonic() < end and not isinstance(error, ValueError):
                    time.sleep(_LOOK)
                    continue
                kept = "finished files are kept; " if is_again else ""
                raise ClusterError.at(
                    self.address,
                    f"no scheduler of dask answers there ({first_line(error)})",
                    f"{kept}start it, or mend the address",
                ) from error

    def _compare(self) -> None:
        assert self._client is not None  # noqa: S101 - reached
        ours = identity()
        end = time.monotonic() + self.patience
        is_told = False
        while not self._client.nthreads():  # type: ignore[no-untyped-call] # of dask
            if time.monotonic() > end:
                raise ClusterError.at(self.address, "has no worker", "start some, and run again")
            if not is_told:
                self.tell(f"{self.address}: has no worker yet; waiting for one")
            is_told = True
            time.sleep(_LOOK / 2)
        said: dict[str, Any] = self._client.run(identity, on_error="return")
        reasons = {worker: _unlike(theirs, ours) for worker, theirs in sorted(said.items())}
        self._refused = {worker for worker, reason in reasons.items() if reason}
        lines = [
            Notice(Kind.CLUSTER, worker, f"gets no work: {reason}", severity="note")
            for worker, reason in reasons.items()
            if reason
        ]
        if len(lines) == len(reasons):
            last = Notice(
                Kind.CLUSTER,
                self.address,
                "no worker may be used",
                "install the same versions there, and run again",
            )
            raise ClusterError(*lines, last)
        for line in lines:
            self.tell(str(line))

    def _let_go(self) -> None:
        if self._client is not None:
            with contextlib.suppress(OSError, TimeoutError, RuntimeError):
                self._client.close(timeout=2)  # type: ignore[no-untyped-call] # of dask
            self._client = None


@dataclass
class _Run:
    """One run over some works.

    Attributes:
        waiting: works that are not deployed; several may be parts of one master's.
        mark: name of the file in it that tells who shares it.
    """

    cluster: Cluster
    waiting: deque[MasterWork]
    output: OutputFolder
    mark: str
    _out: dict[Future[Reply], _Out] = field(default_factory=dict)
    _travels: bool = False  # whether masters go along from the beginning, since a worker lacked one
    _deaths: Counter[str] = field(default_factory=Counter)
    _made: dict[str, list[Made]] = field(default_factory=dict)  # of each master, the results of its parts
    _moved: float = 0.0  # when a work was done last

    def __post_init__(self) -> None:
        """Counts the parts."""
        self._parts = Counter(work.key for work in self.waiting)

    def results(self) -> Iterator[Made]:
        """Does all, and gives the result of each master."""
        for part in self._results_of_parts():
            made = self._made.setdefault(part.key, [])
            made.append(part)
            if len(made) == self._parts[part.key]:
                yield _joined(self._made.pop(part.key))

    def _results_of_parts(self) -> Iterator[Made]:
        looked = self._moved = time.monotonic()
        try:
            while self.waiting or self._out:
                yield from self._send()
                if not self._out:  # there is no worker
                    time.sleep(_LOOK)
                for one in wait(self._out, timeout=_LOOK, return_when=FIRST_COMPLETED).done:
                    self._moved = time.monotonic()
                    yield from self._taken(one, self._out.pop(one))
                if time.monotonic() - looked >= _LOOK:
                    if self.cluster.look():
                        self._take_back()
                    looked = time.monotonic()
                self._end_if_nothing_moves()
        finally:
            for one in self._out:
                one.cancel()

    def _take_back(self) -> None:
        """Takes back sent work, to be sent again: a client that is gone completes no future."""
        for one in [one for one in self._out if not one.done()]:
            one.cancel()
            self.waiting.appendleft(self._out.pop(one).work)
        self._moved = time.monotonic()

    def _end_if_nothing_moves(self) -> None:
        """Ends the run if no work was done for too long though there are workers.

        Raises:
            ClusterError: so it is.
        """
        longest = max((out.work.estimated_seconds for out in self._out.values()), default=0.0)
        limit = self.cluster.patience + _SLOWER * longest
        if self._out and self.cluster.threads and time.monotonic() - self._moved > limit:
            workers = counted(self.cluster.threads, "thread")
            raise ClusterError.at(
                self.cluster.address,
                f"nothing was done for {limit:.0f} s by {workers} of workers; finished files are kept",
                "check the workers, and run again",
            )

    def _send(self) -> Iterator[Made]:
        """Sends work, no more than keeps the workers busy, because each unit takes memory here and there."""
        threads = self.cluster.threads
        while self.waiting and len(self._out) < threads * (2 if self.waiting[0].estimated_seconds < _SHORT else 1):
            work = self.waiting.popleft()
            try:
                self._send_one(work, travels=self._travels)
            except MasterError as error:
                yield Made(work.key, (), {}, error.notices[0])

    def _send_one(self, work: MasterWork, *, travels: bool) -> None:
        """Sends a work out.

        Raises:
            MasterError: its master is to travel, and cannot be read or was changed.
        """
        file = work.file.absolute() if isinstance(work.file, Path) else work.file
        there = replace(work, file=file, output=self.output.folder.absolute())
        task = Task(there, identity(), self.mark, _bytes_of(work) if travels else None, self.output.place)
        self._out[self.cluster.submit(task)] = _Out(work, travels)

    def _taken(self, future: Future[Reply], out: _Out) -> Iterator[Made]:
        """Takes a reply in: a result, or another try."""
        if future.cancelled():  # the scheduler went away with it
            self.waiting.appendleft(out.work)
            return
        error = future.exception()
        if isinstance(error, SarvelError):
            raise error
        reply = Reply(died=True) if error else future.result()
        if reply.made is not None:
            for name, content in reply.contents.items():
                write_whole(self.output.folder / name, content)
            if reply.sent:
                self.output.arrived(reply.made.files)
            yield reply.made
        elif reply.died:
            yield from self._died(out, "" if error is None else f" ({type(error).__name__})")
        elif reply.refuses:
            self.cluster.refuse(reply.refuses)
            self.waiting.appendleft(out.work)
        elif out.travels:  # it was sent along, and had other bytes than expected
            fault = Notice(Kind.MASTER, out.work.key, "did not reach a worker whole", "run again")
            yield Made(out.work.key, (), {}, fault)
        else:
            self._travels = True
            self.waiting.appendleft(out.work)

    def _died(self, out: _Out, why: str) -> Iterator[Made]:
        key = out.work.key
        self._deaths[key] += 1
        if self._deaths[key] < _TRIES:
            self.waiting.append(out.work)
            return
        text, cure = f"{_TRIES} processes died on it{why}", "save or copy it again, or leave it out"
        yield Made(key, (), {}, Notice(Kind.MASTER, key, text, cure))


def _joined(parts: Sequence[Made]) -> Made:
    """The result of a master of those of its parts; of several faults one."""
    files = tuple(sorted((file for part in parts for file in part.files), key=lambda file: file.name))
    findings = {key: said for part in parts for key, said in part.findings.items()}
    return Made(parts[0].key, files, findings, min((part.fault for part in parts if part.fault), key=str, default=None))


@contextlib.contextmanager
def _marked(output: Path) -> Iterator[str]:
    """A file in the folder of renditions, there while the block runs: a name that no one else has made."""
    mark = f"{PART}{secrets.token_hex(8)}"
    write_whole(output / mark, b"")
    try:
        yield mark
    finally:
        with contextlib.suppress(OSError):
            (output / mark).unlink()


def _bytes_of(work: MasterWork) -> bytes:
    """The bytes of a master.

    Raises:
        MasterError: it cannot be read, or has other bytes than the digest.
    """
    with taken(work.file, work.key) as copy:
        if copy.digest != work.digest:
            raise MasterError.at(work.key, "was changed while this run was at work; nothing is made of it", "run again")
        return copy.stream.read()


def _unlike(theirs: object, ours: Identity) -> str:
    """Why a worker is not used; "" if it is."""
    if isinstance(theirs, BaseException):
        return f"Sarvel cannot be loaded there ({theirs})"
    return difference(theirs, ours) if isinstance(theirs, tuple) else "Sarvel cannot be loaded there"
