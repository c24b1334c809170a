"""The process beside a worker that does the work: a master that kills it does not take the worker with it.

A worker of dask may have no children that `multiprocessing` would start. This one is a program of its own: works come in by its
standard input and results go out by its standard output, one after the other; it ends when nobody is there to write to it.
"""

from __future__ import annotations

import contextlib
import os
import pickle
import queue
import signal
import subprocess
import sys
import threading

from sarvel.encode.work import Made, MasterWork
from sarvel.errors import SarvelError


class DiedError(Exception):
    """The process is gone."""


class RenderProcess:
    """One such process."""

    def __init__(self) -> None:
        """Starts it."""
        command = [sys.executable, "-m", "sarvel.workers.cluster.hand"]
        alone = {**os.environ, "OPENBLAS_NUM_THREADS": "1"}  # a worker has a process for each core already
        self._process = subprocess.Popen(command, env=alone, stdin=subprocess.PIPE, stdout=subprocess.PIPE)  # noqa: S603 - ourselves

    def do(self, work: MasterWork) -> Made:
        """Has work done.

        Raises:
            SarvelError: as do_work.
            DiedError: the process died.
        """
        assert self._process.stdin is not None and self._process.stdout is not None  # noqa: S101 - both are pipes
        try:
            pickle.dump(work, self._process.stdin)
            self._process.stdin.flush()
            result = pickle.load(self._process.stdout)  # noqa: S301 - from our own process
        except (EOFError, OSError, ValueError, pickle.UnpicklingError) as error:  # a closed pipe is an error of value
            raise DiedError from error
        if isinstance(result, SarvelError):
            raise result
        made: Made = result
        return made

    def close(self) -> None:
        """Ends it."""
        self._process.kill()
        with contextlib.suppress(OSError):
            self._process.communicate()


def main() -> None:
    """The life of the process."""
    from sarvel.workers.make import do_work

    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the worker's affair
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
            works.put(pickle.load(sys.stdin.buffer))  # noqa: S301 - from the worker that started us
    except (EOFError, OSError):
        os._exit(0)


if __name__ == "__main__":
    main()
