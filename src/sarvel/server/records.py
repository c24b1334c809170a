"""Records of a server: counts for Prometheus, a line of JSON for each request, and problems in words."""

from __future__ import annotations

import json
import os
import sys
import time
from collections.abc import Mapping
from pathlib import Path
from typing import IO

from prometheus_client import CollectorRegistry, Counter, Gauge, Histogram, generate_latest

_ANSWER_SECONDS = (0.001, 0.005, 0.025, 0.1, 0.5, 2.5, 10.0)
_RENDER_SECONDS = (0.1, 0.25, 0.5, 1.0, 2.5, 5.0, 10.0, 30.0, 120.0)
_MOST_LOGGED = 500  # letters of a path in the log
_AGAIN = 60.0  # s within which the same trouble is reported once
_MOST_TROUBLES = 1000  # that are remembered as told


class Records:
    """Counters, and the log."""

    def __init__(self, log: str) -> None:
        """Begins to count.

        Args:
            log: the file for lines of JSON; "-" for standard output, "" for none.
        """
        self._registry = one = CollectorRegistry()
        by = ["status", "from"]
        self.answers = Counter("sarvel_answers", "Answers, by status and where the file was.", by, registry=one)
        self.sent = Counter("sarvel_sent_bytes", "Bytes of files that were sent.", registry=one)
        self.seconds = Histogram("sarvel_answer_seconds", "Time to an answer.", registry=one, buckets=_ANSWER_SECONDS)
        self.made = Counter(
            "sarvel_files_made", "Files made, by where their encoder's number is from.", ["number"], registry=one
        )
        self.failed = Counter("sarvel_files_failed", "Files that could not be made.", registry=one)
        self.rendering = Histogram("sarvel_render_seconds", "Time to a file.", registry=one, buckets=_RENDER_SECONDS)
        self.waiting = Gauge("sarvel_waiting", "Files that wait to be made.", registry=one)
        self.busy = Gauge("sarvel_busy_workers", "Workers that make one.", registry=one)
        self.cache = Gauge("sarvel_cache_bytes", "Bytes of the files on disk, at the last sweep.", registry=one)
        self.swept = Counter("sarvel_cache_files_removed", "Files that went to keep the limit.", registry=one)
        self._log = _Log(log) if log else None
        self._told: dict[str, float] = {}
        self._answers: dict[tuple[int, str], Counter] = {}

    def metrics(self) -> bytes:
        """All counts in the text format of Prometheus."""
        return generate_latest(self._registry)

    def request(self, status: int, source: str, size: int, seconds: float, said: Mapping[str, str]) -> None:
        """Records an answer.

        Args:
            source: where the file was: memory, disk, made, or why it was not sent.
            size: bytes of its body.
            said: method, path and client.
        """
        counter = self._answers.get((status, source))
        if counter is None:
            counter = self._answers[status, source] = self.answers.labels(str(status), source)
        counter.inc()
        self.sent.inc(size)
        self.seconds.observe(seconds)
        if self._log:
            path = said["path"][:_MOST_LOGGED]
            line = {"time": _now(), "method": said["method"], "path": path, "status": status, "bytes": size}
            self._log.write({**line, "ms": round(seconds * 1000, 2), "from": source, "client": said["client"]})

    def trouble(self, message: str) -> None:
        """Reports a problem on standard error; the same one again only after a while."""
        now = time.monotonic()
        if now - self._told.get(message, -_AGAIN) < _AGAIN:
            return
        if len(self._told) >= _MOST_TROUBLES:
            self._told.clear()
        self._told[message] = now
        print(f"{_now()} {message}".encode("utf-8", "backslashreplace").decode(), file=sys.stderr, flush=True)  # noqa: T201 - the server's log

    def flush(self) -> None:
        """Writes pending records; if the log was moved away, a new one is started."""
        if self._log:
            self._log.flush()

    def close(self) -> None:
        """Ends the log."""
        if self._log:
            self._log.close()


def _now() -> str:
    """The time as RFC 3339 writes it, in UTC."""
    return time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime())


class _Log:
    """A file of lines, written some at a time."""

    def __init__(self, place: str) -> None:
        self._file = None if place == "-" else Path(place)
        self._stream = self._opened()

    def _opened(self) -> IO[str]:
        return sys.stdout if self._file is None else self._file.open("a", encoding="utf-8", errors="backslashreplace")

    def write(self, said: Mapping[str, object]) -> None:
        self._stream.write(json.dumps(said) + "\n")

    def flush(self) -> None:
        self._stream.flush()
        if self._file is None:
            return
        try:
            is_there = os.fstat(self._stream.fileno()).st_ino == self._file.stat().st_ino
        except OSError:
            is_there = False
        if not is_there:
            self.close()
            self._stream = self._opened()

    def close(self) -> None:
        if self._file is not None:
            self._stream.close()
