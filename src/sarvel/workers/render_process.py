"""A process that does the work on masters, one after the other: a master that kills it ends no one else.

It is a program of its own, for a worker of dask may have no children that `multiprocessing` would start. Works come in by its
standard input and results go out by its standard output; it ends when no one is there to write to it.
"""

from __future__ import annotations

import contextlib
import math
import os
import pickle
import queue
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable

from sarvel.encode.work import Made, MasterWork
from sarvel.errors import SarvelError

_NICE = 10  # of a background process: existing files are served before missing ones are made
_LOOK = 0.1  # s between looks at whether a result is still waited for


class DiedError(Exception):
    """The process is gone."""


class GivenUpError(Exception):
    """Work took too long, or no one waits for it any more, as the text explains."""


class RenderProcess:
    """One such process."""

    def __init__(self, *, polite: bool = False) -> None:
        """Starts it.

        Args:
            polite: whether other processes go first.
        """
        from sarvel.workers.life import interrupts_held

        command = [sys.executable, "-m", "sarvel.workers.render_process", *(["polite"] if polite else [])]
        alone = {**os.environ, "OPENBLAS_NUM_THREADS": "1"}  # there is a process for each core already
        with interrupts_held():
            self._process = subprocess.Popen(command, env=alone, stdin=subprocess.PIPE, stdout=subprocess.PIPE)  # noqa: S603 - ourselves
        self._results: queue.SimpleQueue[Made | SarvelError | None] = queue.SimpleQueue()
        self._reader = threading.Thread(target=self._read, daemon=True)
        self._reader.start()

    def lives(self) -> bool:
        """Tells whether the process is there."""
        return self._process.poll() is None

    def do(self, work: MasterWork, longest: float = math.inf, ends: Callable[[], bool] = lambda: False) -> Made:
        """Has work done.

        Args:
            longest: s after which it is given up.
            ends: tells whether no one waits for it any more.

        Raises:
            SarvelError: as do_work.
            GivenUpError: it took too long, or no one waits for it any more; the process is still at it.
            DiedError: the process died.
        """
        assert self._process.stdin is not None  # noqa: S101 - it is a pipe
        try:
            pickle.dump(work, self._process.stdin)
            self._process.stdin.flush()
        except (OSError, ValueError) as error:  # a closed pipe is an error of value
            raise DiedError from error
        end = time.monotonic() + longest
        while True:
            with contextlib.suppress(queue.Empty):
                result = self._results.get(timeout=_LOOK)
                break
            if time.monotonic() > end:
                raise GivenUpError(f"it took more than {longest:g} s")
            if ends():
                raise GivenUpError("the server ends")
        if result is None:
            raise DiedError
        if isinstance(result, SarvelError):
            raise result
        return result

    def close(self) -> None:
        """Ends it."""
        self._process.kill()
        self._process.wait()
        self._reader.join()
        for stream in (self._process.stdin, self._process.stdout):
            with contextlib.suppress(OSError):
                stream.close()  # type: ignore[union-attr] # both are pipes

    def _read(self) -> None:
        assert self._process.stdout is not None  # noqa: S101 - it is a pipe
        try:
            while True:
                self._results.put(pickle.load(self._process.stdout))  # noqa: S301 - from our own process
        except (EOFError, OSError, ValueError, pickle.UnpicklingError):
            self._results.put(None)


def main() -> None:
    """The life of the process."""
    from sarvel.workers.make import do_work

    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the affair of who started it
    if "polite" in sys.argv and hasattr(os, "nice"):
        os.nice(_NICE)
    works: queue.SimpleQueue[MasterWork] = queue.SimpleQueue()
    results = os.fdopen(os.dup(sys.stdout.fileno()), "wb")
    os.dup2(sys.stderr.fileno(), sys.stdout.fileno())  # what a library prints must not get among the results
    threading.Thread(target=_listen, args=(works,), daemon=True).start()
    while True:
        result: Made | SarvelError
        try:
            result = do_work(works.get())
        except SarvelError as error:
            result = error
        pickle.dump(result, results)
        results.flush()


def _listen(works: queue.SimpleQueue[MasterWork]) -> None:
    """Takes works in, and ends the process, even in the middle of a work, once there can be no more."""
    try:
        while True:
            works.put(pickle.load(sys.stdin.buffer))  # noqa: S301 - from who started us
    except (EOFError, OSError):
        os._exit(0)


if __name__ == "__main__":
    main()
