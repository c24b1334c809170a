"""The preview: a site on loopback, nothing cached, that tells what each window fetches and reloads at each build."""

from __future__ import annotations

import asyncio
import contextlib
import hmac
import html
import json
import mimetypes
import re
import secrets
import urllib.parse
from collections.abc import AsyncIterator, Callable, Sequence
from dataclasses import dataclass, field
from importlib.resources import files
from pathlib import Path

from starlette.applications import Starlette
from starlette.middleware import Middleware
from starlette.requests import Request
from starlette.responses import Response, StreamingResponse
from starlette.routing import Route

from sarvel.browser.site_server import TYPES, Folders
from sarvel.core.css.device import Device
from sarvel.server.live import Live, LiveRow
from sarvel.server.own_host import OwnHost, is_asked_by_page
from sarvel.tools.serving.served_folders import with_stand_in

_SCRIPT = '<script src="/.sarvel/live.js" data-path="{}" data-token="{}" defer></script>'
_BODY_END = re.compile(rb"</body\s*>(?!.*</body\s*>)", re.IGNORECASE | re.DOTALL)
_LATE = 1.0  # s within which a page describes its window; files that no image of it explains are reported then
_ALIVE = 15.0  # s between signs of life, so that no proxy considers the connection dead
_SOON = 0.05  # s between two looks at which windows have changed
_MOST_TOLD = 2000  # bytes of what a page tells
_WIDEST = 20_000  # CSS px, and more than any window has

Hear = Callable[[Sequence[LiveRow]], None]


@dataclass
class Preview:
    """The application, and its state.

    Attributes:
        hear: called with rows of the list, from the server's thread.
        hosts: names of the server besides those of loopback.
    """

    folders: Folders
    live: Live
    hear: Hear
    hosts: Sequence[str] = ()
    _secret: bytes = field(default_factory=lambda: secrets.token_bytes(32))
    _views: dict[str, tuple[Path, Device, bool]] = field(default_factory=dict)
    _waiting: set[asyncio.Queue[str | None]] = field(default_factory=set)
    _loop: asyncio.AbstractEventLoop | None = None

    def app(self) -> Starlette:
        """The ASGI application."""
        routes = [
            Route("/.sarvel/live.js", self._script),
            Route("/.sarvel/seen", self._seen, methods=["POST"]),
            Route("/.sarvel/changes", self._changes),
            Route("/{path:path}", self._file),
        ]
        guard = Middleware(OwnHost, hosts=self.hosts)
        return Starlette(routes=routes, middleware=[guard], lifespan=self._lifespan)

    def built(self) -> None:
        """Tells all pages to load again; called from any thread."""
        self._tell_all("built")

    def end(self) -> None:
        """Ends the answers that wait for changes, which would hold the server up; called from any thread."""
        self._tell_all(None)

    def _tell_all(self, event: str | None) -> None:
        def tell() -> None:
            for queue in self._waiting:
                queue.put_nowait(event)

        if self._loop:
            self._loop.call_soon_threadsafe(tell)

    @contextlib.asynccontextmanager
    async def _lifespan(self, _app: Starlette) -> AsyncIterator[None]:
        self._loop = asyncio.get_running_loop()
        tasks = [asyncio.create_task(self._tell_late()), asyncio.create_task(self._tell_views())]
        yield
        for task in tasks:
            task.cancel()

    async def _tell_late(self) -> None:
        """Reports files that no view explains."""
        while True:
            await asyncio.sleep(_LATE / 2)
            self._hear(self.live.rows_unexplained(_LATE))

    async def _tell_views(self) -> None:
        """Tells what windows fetch, one page after the other; of a page that is still waiting only its last window."""
        while True:
            await asyncio.sleep(_SOON)
            for path in list(self._views):
                file, device, first = self._views.pop(path)
                with contextlib.suppress(Exception):  # of one page, which must not end the list of all others
                    self._hear(await asyncio.to_thread(self.live.rows_of_view, path, file, device, first=first))

    def _hear(self, rows: Sequence[LiveRow]) -> None:
        if rows:
            self.hear(rows)

    async def _script(self, _request: Request) -> Response:
        return _fresh(files("sarvel.server").joinpath("live.js").read_bytes(), "text/javascript")

    async def _seen(self, request: Request) -> Response:
        said = b""
        async for part in request.stream():
            said += part
            if len(said) > _MOST_TOLD:
                return Response(status_code=413, headers={"Connection": "close"})
        try:
            told = json.loads(said)
            path, token = str(told["path"]), str(told["token"])
            width, height, density = (float(told[name]) for name in ("width", "height", "density"))
            first = bool(told["first"])
        except (ValueError, KeyError, TypeError, RecursionError):
            return Response(status_code=400)
        if not hmac.compare_digest(token.encode("utf-8", "replace"), self._token(path).encode()):
            return Response(status_code=403)
        file = self.folders.file(urllib.parse.unquote(path))
        if file and 0 < width < _WIDEST and 0 < height < _WIDEST and 0 < density < 100:
            was_first = self._views.get(path, (file, None, False))[2]
            self._views[path] = (file, Device(width, height, density), first or was_first)
        return Response(status_code=204)

    async def _changes(self, request: Request) -> Response:
        queue: asyncio.Queue[str | None] = asyncio.Queue()
        self._waiting.add(queue)

        async def events() -> AsyncIterator[str]:
            try:
                while not await request.is_disconnected():
                    try:
                        event = await asyncio.wait_for(queue.get(), _ALIVE)
                    except TimeoutError:
                        yield ":\n\n"
                        continue
                    if event is None:
                        return
                    yield f"event: {event}\ndata: \n\n"
            finally:
                self._waiting.discard(queue)

        return StreamingResponse(events(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})

    async def _file(self, request: Request) -> Response:
        path = urllib.parse.unquote(request.url.path, errors="surrogateescape")
        file = await asyncio.to_thread(self.folders.file, path, asked=is_asked_by_page(request.headers))
        file = file or await asyncio.to_thread(self.folders.made, _target(request))
        content = None
        if file is not None:
            with contextlib.suppress(OSError):
                content = await asyncio.to_thread(file.read_bytes)
        if file is None or content is None:
            return _fresh(b"there is no such file\n", "text/plain; charset=utf-8", 404)
        kind = media_type(file)
        if kind == "text/html":
            at = request.url.path
            return _fresh(with_script(with_stand_in(content, self.live.plan), at, self._token(at)), kind)
        if kind == "text/css":
            return _fresh(with_stand_in(content, self.live.plan), kind)
        if kind.startswith("image/"):
            page = urllib.parse.urlsplit(request.headers.get("referer", "")).path
            self.live.ask(page, path, len(content))
        return _fresh(content, kind)

    def _token(self, path: str) -> str:
        """What a page that was served at a path proves itself by."""
        return hmac.digest(self._secret, path.encode("utf-8", "surrogateescape"), "sha256").hex()


def _target(request: Request) -> str:
    """Path and query, as the browser sent them."""
    return request.url.path + (f"?{request.url.query}" if request.url.query else "")


def _fresh(content: bytes, kind: str, status: int = 200) -> Response:
    return Response(content, status, {"Cache-Control": "no-store", "Content-Type": kind})


def media_type(file: Path) -> str:
    """The media type of a file by its ending."""
    suffix = file.suffix.lower()
    if suffix in (".htm", ".html"):
        return "text/html"
    return TYPES.get(suffix) or mimetypes.guess_type(file.name)[0] or "application/octet-stream"


def with_script(page: bytes, path: str, token: str) -> bytes:
    """A page with the script that describes its window, before the end of its body; nothing else changes.

    Args:
        path: the path that it is served at, as an address has it.
        token: proves that it was served at this path.
    """
    found = _BODY_END.search(page)
    at = found.start() if found else len(page)
    return page[:at] + _SCRIPT.format(html.escape(path), token).encode("utf-8", "surrogateescape") + page[at:]
