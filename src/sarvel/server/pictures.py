"""The server of sealed addresses, as an ASGI application: files, health and counts; nothing else."""

from __future__ import annotations

import asyncio
import time
import urllib.parse
from collections.abc import Awaitable, Callable, Mapping, MutableMapping
from typing import Any, TypeAlias

from sarvel.core.address.address import escaped
from sarvel.core.markup.backgrounds import STYLESHEET
from sarvel.errors import SarvelError
from sarvel.server.answers import Answer, answer, entry_of, refusal
from sarvel.server.outcomes import NOT_SEALED, Moved, Outcome, Refused
from sarvel.server.records import Records
from sarvel.server.renditions import Renditions
from sarvel.server.settings import ServerSettings

Scope: TypeAlias = MutableMapping[str, Any]
Receive: TypeAlias = Callable[[], Awaitable[MutableMapping[str, Any]]]
Send: TypeAlias = Callable[[MutableMapping[str, Any]], Awaitable[None]]

HEALTH, METRICS = ".sarvel/health", ".sarvel/metrics"
"""The paths that describe the server itself."""

_LONGEST_PATH = 8000  # bytes: escapes take three for one, and Asked.LONGEST letters are the most that an address has
_METHODS = ("GET", "HEAD")


class Pictures:
    """The application."""

    def __init__(self, settings: Callable[[], ServerSettings]) -> None:
        """Begins; nothing is read before the server starts it.

        Args:
            settings: called then.
        """
        self._settings = settings
        self._renditions: Renditions | None = None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answers one request, or begins and ends with the server."""
        if scope["type"] == "lifespan":
            await self._live(receive, send)
        elif scope["type"] == "http":
            await self._answer(scope, send)
        else:
            await send({"type": "websocket.close"})

    async def _live(self, receive: Receive, send: Send) -> None:
        await receive()
        try:
            await self._start()
        except SarvelError as error:
            await send({"type": "lifespan.startup.failed", "message": str(error)})
            return
        await send({"type": "lifespan.startup.complete"})
        await receive()
        await self.close()
        await send({"type": "lifespan.shutdown.complete"})

    async def _start(self) -> Renditions:
        settings = self._settings()
        self._records = Records(settings.log)
        renditions = Renditions(settings, self._records)
        try:
            await renditions.start()
        except BaseException:
            await renditions.close()
            raise
        self._renditions = renditions
        return renditions

    async def close(self) -> None:
        """Ends it: workers, and the log."""
        if self._renditions:
            await self._renditions.close()
            self._records.close()

    async def _answer(self, scope: Scope, send: Send) -> None:
        began = time.perf_counter()
        renditions = self._renditions or await self._start()
        asked = dict(scope["headers"])
        found, source = await _answered(scope, asked, renditions, self._records)
        headers = found.headers
        if b"content-length" in asked or b"transfer-encoding" in asked:  # a body that no one reads
            headers = [*headers, (b"connection", b"close")]
        await send({"type": "http.response.start", "status": found.status, "headers": headers})
        body = b"" if scope["method"] == "HEAD" else found.body
        await send({"type": "http.response.body", "body": body})
        client = (scope.get("client") or ("",))[0]
        path = (scope.get("raw_path") or scope["path"].encode("utf-8", "replace")).decode("latin-1")
        said = {"method": scope["method"], "path": path, "client": client}
        self._records.request(found.status, source, len(body), time.perf_counter() - began, said)


async def _answered(
    scope: Scope, asked: Mapping[bytes, bytes], renditions: Renditions, records: Records
) -> tuple[Answer, str]:
    """The answer to a request, and where it comes from."""
    if scope["method"] not in _METHODS:
        return refusal(405, "only GET and HEAD are answered", (b"allow", b"GET, HEAD")), "method"
    if len(scope.get("raw_path") or b"") > _LONGEST_PATH:
        return refusal(414, "no address is so long"), "seal"
    for path in _paths(scope, renditions.prefix):
        if words := renditions.opened(path):
            outcome = await renditions.outcome(words, asked.get(b"accept", b"").decode("latin-1"))
            return _told(outcome, asked, renditions)
        if path == STYLESHEET and (sheet := await asyncio.to_thread(renditions.stylesheet)):
            return answer(entry_of(sheet, "text/css; charset=utf-8", is_final=False), asked, varies=False), "disk"
        if own := _own(path, records):
            return own, "own"
    return refusal(NOT_SEALED.status, NOT_SEALED.why), NOT_SEALED.source


def _told(outcome: Outcome, asked: Mapping[bytes, bytes], renditions: Renditions) -> tuple[Answer, str]:
    """The answer that describes an outcome, and where it comes from."""
    if isinstance(outcome, Moved):
        place = "./" + escaped(
            renditions.new_address(outcome.now)
        )  # relative: no one here knows how browsers reach the server
        return refusal(302, "this picture is now elsewhere", (b"location", place.encode())), "moved"
    if isinstance(outcome, Refused):
        retry = [(b"retry-after", b"%d" % outcome.retry)] if outcome.retry else []
        return refusal(outcome.status, outcome.why, *retry), outcome.source
    return answer(outcome.entry, asked, varies=outcome.varies), outcome.source


def _paths(scope: Scope, prefix: str) -> list[str]:
    """What the path of a request may be below the prefix of the plan, which a proxy may take away or leave."""
    raw = scope.get("raw_path")
    path = urllib.parse.unquote(raw.decode("latin-1"), errors="surrogateescape") if raw else str(scope["path"])
    root = scope.get("root_path", "")
    path = path.removeprefix(root) if root and path.startswith(f"{root}/") else path
    path = path.lstrip("/")
    below = path.removeprefix(f"{prefix}/") if prefix else path
    return [below, path] if below != path else [path]


def _own(path: str, records: Records) -> Answer | None:
    """What the server describes itself; None for other paths."""
    if path == HEALTH:
        body, kind = b"well\n", b"text/plain; charset=utf-8"
    elif path == METRICS:
        body, kind = records.metrics(), b"text/plain; version=0.0.4; charset=utf-8"
    else:
        return None
    headers = [(b"content-type", kind), (b"cache-control", b"no-store"), (b"content-length", b"%d" % len(body))]
    return Answer(200, headers, body)
