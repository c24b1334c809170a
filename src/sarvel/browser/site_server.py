"""The site's folders, served on loopback to a browser: nothing cached, some pages with a text of their own."""

from __future__ import annotations

import contextlib
import threading
import urllib.parse
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any, Protocol

from sarvel.core.html.base import without_base
from sarvel.files.places import WELL_KNOWN

# Media types that Python's own table lacks, or has by what the system says: IANA, and RFC 9512 for none of these.
TYPES = {
    ".avif": "image/avif",
    ".webp": "image/webp",
    ".jxl": "image/jxl",
    ".svg": "image/svg+xml",
    ".js": "text/javascript",
    ".mjs": "text/javascript",
    ".css": "text/css",
    ".xhtml": "application/xhtml+xml",
    ".woff2": "font/woff2",
}
"""Media types by ending, before what the system says."""


_NOTHING = b"nothing is here"  # where a response is empty, a browser shows a page of its own, of another origin

LOOPBACK = frozenset({"localhost", "127.0.0.1", "::1"})
"""Names of this machine that lead nowhere else."""


def host_of(authority: str) -> str:
    """The host of an authority such as `localhost:8123` or `[::1]:8123`, in lower case; "" if it is not one."""
    try:
        parts = urllib.parse.urlsplit(f"//{authority}")
    except ValueError:
        return ""
    return "" if parts.path or parts.query or parts.fragment or "@" in authority else parts.hostname or ""


class Publishes(Protocol):
    """Tells which files of a site browsers may have."""

    def __call__(self, file: Path, *, asked: bool) -> bool:
        """Tells whether they may have a file; `asked` whether a page of the site asks for it."""


def _everything(file: Path, *, asked: bool) -> bool:  # noqa: ARG001 - see Publishes
    return True


@dataclass(frozen=True)
class Folders:
    """The folders that are served as one.

    Attributes:
        tops: folders that / may mean, the likeliest first; of files of one path the first counts.
        mounts: other folders, by the path that they are served at, with a slash at both ends.
        base: the path that the site is published below, without a slash at its end; files are served below / too.
        maker: makes files that are in no folder, from path and query as a browser sends them; may be None.
        publishes: whether browsers may have a file that is there; hidden ones are never served.
    """

    tops: Sequence[Path]
    mounts: Mapping[str, Path] = field(default_factory=dict)
    maker: Callable[[str], Path | None] | None = None
    publishes: Publishes = _everything
    base: str = ""

    def made(self, target: str) -> Path | None:
        """The file of a path and query that no folder holds, made now; None if nothing makes it."""
        return self.maker(target) if self.maker else None

    def file(self, path: str, *, asked: bool = True) -> Path | None:
        """The file of a path that begins with a slash; or None that browsers may have.

        Args:
            asked: whether a page of the site asks for it.
        """
        return next((file for file in self._found(path) if self.publishes(file, asked=asked)), None)

    def _found(self, path: str) -> Iterator[Path]:
        """What the path may mean, the likeliest first."""
        for mount, folder in sorted(self.mounts.items(), key=lambda one: -len(one[0])):
            if path.startswith(mount):
                yield from filter(None, [_below(folder, path[len(mount) :])])
                return
        rooted = without_base(path, self.base)
        yield from filter(None, (_below(top, rooted.lstrip("/")) for top in self.tops))

    def path(self, file: Path) -> str | None:
        """The path at which a file is served; None if it lies in none of the folders."""
        place = file.absolute()
        for top in self.tops:
            if place.is_relative_to(top.absolute()):
                return f"{self.base}/" + urllib.parse.quote(place.relative_to(top.absolute()).as_posix())
        return None


def _below(folder: Path, name: str) -> Path | None:
    """A file below a folder; a folder means its index.html."""
    try:
        parts = Path(name).parts
        if name.startswith("/") or "\0" in name or any(one.startswith(".") and one != WELL_KNOWN for one in parts):
            return None
        place = folder.joinpath(*parts)
        place = place / "index.html" if place.is_dir() else place
        return place if place.is_file() else None
    except OSError:
        return None


class SiteServer:
    """A server of a site on loopback.

    Attributes:
        address: of its root, without a slash at the end.
        served: responses since this was cleared: path, bytes, media type.
    """

    def __init__(self, folders: Folders, texts: Mapping[str, bytes]) -> None:
        """Begins to serve.

        Args:
            texts: pages to serve in place of their files, by path.
        """
        self.served: list[tuple[str, int, str]] = []
        self._server = _Silent(("127.0.0.1", 0), _handler(folders, texts, self.served))
        threading.Thread(target=self._server.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True).start()
        self.address = f"http://127.0.0.1:{self._server.server_port}"

    def close(self) -> None:
        """Ends it."""
        self._server.shutdown()
        self._server.server_close()


class _Silent(ThreadingHTTPServer):
    daemon_threads = True
    request_queue_size = 128  # a page of many images asks for more at once than the five that are usual

    def handle_error(self, request: Any, client_address: Any) -> None:  # noqa: ANN401 - as in the base
        """Says nothing: a browser that leaves a page while it is sent is no fault."""


def _handler(
    folders: Folders, texts: Mapping[str, bytes], served: list[tuple[str, int, str]]
) -> type[SimpleHTTPRequestHandler]:
    class Handler(SimpleHTTPRequestHandler):
        extensions_map = {**SimpleHTTPRequestHandler.extensions_map, **TYPES}  # noqa: RUF012 - as in the base
        protocol_version = "HTTP/1.1"

        def do_GET(self) -> None:
            self._answer(with_body=True)

        def do_HEAD(self) -> None:
            self._answer(with_body=False)

        def _answer(self, *, with_body: bool) -> None:
            if host_of(self.headers.get("Host", "")) not in LOOPBACK:  # a name that leads here: see server/own_host.py
                self.send_error(421)
                return
            path = urllib.parse.unquote(urllib.parse.urlsplit(self.path).path, errors="surrogateescape")
            content = texts.get(path)
            file = None if content is not None else folders.file(path) or folders.made(self.path)
            if content is None and file is not None:
                with contextlib.suppress(OSError):
                    content = file.read_bytes()
            found = content is not None
            body = content if content is not None else _NOTHING
            self.send_response(200 if found else 404)
            kind = self._media_type(path if path in texts else str(file or path))
            served.append((path, len(body), kind if found else ""))
            self.send_header("Content-Type", kind)
            self.send_header("Content-Length", str(len(body)))
            self.send_header("Cache-Control", "no-store")
            self.end_headers()
            if with_body:
                with contextlib.suppress(ConnectionError):  # the browser has left the page
                    self.wfile.write(body)

        def _media_type(self, name: str) -> str:
            kind = self.guess_type(name if "." in name.rsplit("/", 1)[-1] else f"{name}/index.html")
            return "text/html" if kind == "application/octet-stream" and name.endswith(".htm") else kind

        def log_message(self, *_: Any) -> None:  # noqa: ANN401 - as in the base
            pass

    return Handler
