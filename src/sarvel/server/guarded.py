"""Connections that ask for too much, too slowly: they are answered with 431, or dropped.

uvicorn waits as long as a client likes for the headers of a request, keeps as many as it sends, and holds an answer for a
client that does not read it. Behind a proxy no one meets that; without one anybody does.
"""

from __future__ import annotations

import asyncio
from typing import Any

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

HEADER_BYTES = 16_384
"""Bytes of the headers of a request; browsers and proxies send some hundred to some thousand."""

HEADER_SECONDS = 10.0
"""Seconds within which they must have come."""

READ_SECONDS = 60.0
"""Seconds within which a client must have read some of an answer that waits for it."""

_TOO_LARGE = b"HTTP/1.1 431 Request Header Fields Too Large\r\ncontent-length: 0\r\nconnection: close\r\n\r\n"


class GuardedProtocol(HttpToolsProtocol):
    """A connection whose patience has an end."""

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override] # as in the base
        """Begins to wait for headers."""
        super().connection_made(transport)
        self._header_bytes = 0
        self._reading: asyncio.TimerHandle | None = None
        self._awaits_headers = True
        self._waiting: asyncio.TimerHandle | None = self.loop.call_later(HEADER_SECONDS, self._drop)

    def data_received(self, data: bytes) -> None:
        """Counts the bytes before a request is complete."""
        if not self._awaits_headers and (self.cycle is None or self.cycle.response_complete):
            self._awaits_headers, self._header_bytes = True, 0
            self._waiting = self.loop.call_later(HEADER_SECONDS, self._drop)
        if self._awaits_headers:
            self._header_bytes += len(data)
            if self._header_bytes > HEADER_BYTES:
                self._stop_waiting()
                self.transport.write(_TOO_LARGE)
                self.transport.close()
                return
        super().data_received(data)

    def on_headers_complete(self) -> None:
        """Has a whole request."""
        self._stop_waiting()
        self._awaits_headers = False
        super().on_headers_complete()

    def pause_writing(self) -> None:
        """Begins to wait for the client to read."""
        super().pause_writing()
        self._reading = self._reading or self.loop.call_later(READ_SECONDS, self.transport.abort)

    def resume_writing(self) -> None:
        """The client has read."""
        super().resume_writing()
        if self._reading:
            self._reading.cancel()
            self._reading = None

    def connection_lost(self, exc: Exception | None) -> None:
        """Ends all waiting."""
        self._stop_waiting()
        if self._reading:
            self._reading.cancel()
        super().connection_lost(exc)

    def _stop_waiting(self) -> None:
        if self._waiting:
            self._waiting.cancel()
            self._waiting = None

    def _drop(self, *_: Any) -> None:  # noqa: ANN401 - nothing is passed
        if not self.transport.is_closing():
            self.transport.abort()
