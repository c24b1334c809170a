"""A scheduler of dask and workers, each a process of its own, on loopback."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from dataclasses import dataclass, field
from pathlib import Path

_PATCH = """
import os
import sarvel.workers.cluster.identity as identity
import sarvel.workers.make as make
identity.__version__ = os.environ.get("VERSION_HERE", identity.__version__)
real = make.do_work
def do_work(work):
    if work.key.startswith("deadly"):
        os.kill(os.getpid(), 9)
    return real(work)
make.do_work = do_work
"""
"""What workers load first: a master of that name kills who works on it, and their version may be another."""


@dataclass
class DaskHere:
    """The processes.

    Attributes:
        folder: for files of theirs.
        port: of the scheduler.
        workers: those that were started.
    """

    folder: Path
    port: int = 0
    workers: list[subprocess.Popen[bytes]] = field(default_factory=list)

    def __post_init__(self) -> None:
        """Finds a port and starts the scheduler."""
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        (self.folder / "sitecustomize.py").write_text(_PATCH)
        self._start_scheduler()

    @property
    def address(self) -> str:
        """Of the scheduler."""
        return f"tcp://127.0.0.1:{self.port}"

    def worker(self, **environment: str) -> None:
        """Starts a worker in a folder of its own."""
        more = {"PYTHONPATH": str(self.folder), **environment}
        self.workers.append(self._process("worker", self.address, "--nthreads", "1", "--no-nanny", **more))

    def restart_scheduler(self) -> None:
        """Kills the scheduler, and starts another after a while; workers end when theirs goes away."""
        self._scheduler.kill()
        self._scheduler.wait()
        time.sleep(3)
        self._start_scheduler()

    def _start_scheduler(self) -> None:
        self._scheduler = self._process("scheduler", "--host", "127.0.0.1", "--port", str(self.port), "--no-show")
        end = time.monotonic() + 30
        while time.monotonic() < end:
            with socket.socket() as probe:
                if probe.connect_ex(("127.0.0.1", self.port)) == 0:
                    return
            time.sleep(0.1)

    def _process(self, *words: str, **environment: str) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [sys.executable, "-m", "dask", *words, "--no-dashboard"],
            cwd=self.folder,
            env={**os.environ, **environment},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )

    def close(self) -> None:
        """Ends all."""
        for process in [*self.workers, self._scheduler]:
            process.send_signal(signal.SIGCONT)
            process.kill()
            process.wait()
