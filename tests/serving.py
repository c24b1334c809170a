"""The installed program, serving, and its applications, for tests that ask them."""

import asyncio
import http.client
import os
import re
import signal
import subprocess
import sys
import time
import urllib.parse
import urllib.request
from collections.abc import Callable, MutableMapping, Sequence
from pathlib import Path
from typing import Any

from starlette.types import ASGIApp

from sarvel.browser.keeper import descendants


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

    def __init__(self, folder: Path, *arguments: str, command: str = "serve", **variables: str) -> None:
        self.log = folder / "serve.log"
        with self.log.open("w") as log:
            self.process = subprocess.Popen(
                [Path(sys.executable).parent / "sarvel", command, "--port", "0", *arguments],
                cwd=folder, stdout=log, stderr=subprocess.STDOUT, env={**os.environ, "COLUMNS": "170", "PYTHONUNBUFFERED": "1", **variables},
            )  # fmt: skip
        until(
            lambda: (
                "stop with Ctrl-C" in self.text
                and (command == "deliver" or {"--no-watch", "--before"} & {*arguments} or "watching" in self.text)
            )
        )
        self.address = re.search(r"http://[^/]+(?=/)", self.text).group()  # type: ignore[union-attr]

    @property
    def text(self) -> str:
        return self.log.read_text()

    def end(self) -> int:
        self.process.send_signal(signal.SIGINT)
        return self.process.wait(20)


def asked(
    app: ASGIApp, target: str, method: str = "GET", body: Sequence[bytes] = (), /, **fields: str
) -> tuple[int, bytes]:
    """Status and body of an answer of an application, without a server; the parts of the body that it reads are taken out."""
    path, _, query = target.partition("?")
    headers = {"host": "localhost:8123", **{name.replace("_", "-"): value for name, value in fields.items()}}
    scope = {
        "type": "http", "http_version": "1.1", "method": method, "scheme": "http", "server": ("127.0.0.1", 8123),
        "path": urllib.parse.unquote(path), "raw_path": path.encode(), "root_path": "", "query_string": query.encode(),
        "headers": [(name.encode(), value.encode()) for name, value in headers.items() if value],
    }  # fmt: skip
    parts, sent = list(body), list[dict[str, Any]]()

    async def receive() -> dict[str, Any]:
        part = parts.pop(0) if parts else b""
        return {"type": "http.request", "body": part, "more_body": bool(parts)}

    async def send(message: MutableMapping[str, Any]) -> None:
        sent.append(dict(message))

    asyncio.run(app(scope, receive, send))  # type: ignore[arg-type]  # a coroutine, as all applications are
    if isinstance(body, list):
        body[:] = parts
    return sent[0]["status"], b"".join(message.get("body", b"") for message in sent)


def running(name: str, of: int) -> list[int]:
    """The processes of a name that came of another one."""
    names = {
        one: Path(f"/proc/{one}/comm").read_text().strip() for one in descendants(of) if Path(f"/proc/{one}").exists()
    }
    return [one for one, said in names.items() if said.startswith(name)]
