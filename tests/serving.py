"""The installed program, serving, for tests that ask it."""

import http.client
import os
import re
import signal
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path


def opened(address: str, data: bytes | None = None) -> http.client.HTTPResponse:
    return urllib.request.urlopen(address, data)  # type: ignore[no-any-return]  # noqa: S310 - our own server on loopback


def until(holds: Callable[[], object], seconds: float = 30) -> None:
    end = time.monotonic() + seconds
    while not holds():
        assert time.monotonic() < end, "it never came"
        time.sleep(0.05)


def listed(serving: "Serving", told: re.Pattern[str]) -> bool:
    return bool(told.search(serving.text))


class Serving:
    """The installed program, serving."""

    def __init__(self, folder: Path, *arguments: str, **variables: str) -> None:
        self.log = folder / "serve.log"
        with self.log.open("w") as log:
            self.process = subprocess.Popen(
                [Path(sys.executable).parent / "sarvel", "serve", "--port", "0", *arguments],
                cwd=folder, stdout=log, stderr=subprocess.STDOUT, env={**os.environ, "COLUMNS": "170", "PYTHONUNBUFFERED": "1", **variables},
            )  # fmt: skip
        until(
            lambda: (
                "stop with Ctrl-C" in self.text
                and ({"--no-watch", "--before", "--production"} & {*arguments} or "watching" in self.text)
            )
        )
        self.address = re.search(r"http://[^/]+(?=/)", self.text).group()  # type: ignore[union-attr]

    @property
    def text(self) -> str:
        return self.log.read_text()

    def end(self) -> int:
        self.process.send_signal(signal.SIGINT)
        return self.process.wait(20)
