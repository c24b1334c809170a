"""Clients that send slowly or too much, or do not read: dropped, by a server in this process with less patience."""

import asyncio
import socket
import threading
import time
from collections.abc import Iterator

import pytest
import uvicorn

from sarvel.server import guarded
from sarvel.server.guarded import GuardedProtocol
from sarvel.server.pictures import Receive, Scope, Send

SIZE = 30_000_000  # bytes: more than a socket's buffers take


async def app(scope: Scope, _receive: Receive, send: Send) -> None:
    size = SIZE if scope["path"] == "/large" else 5
    await send({"type": "http.response.start", "status": 200, "headers": [(b"content-length", str(size).encode())]})
    await send({"type": "http.response.body", "body": b"x" * size})
    await asyncio.sleep(0)


@pytest.fixture(scope="module")
def port() -> Iterator[int]:
    patch = pytest.MonkeyPatch()
    patch.setattr(guarded, "HEADER_SECONDS", 0.4)
    patch.setattr(guarded, "READ_SECONDS", 0.4)
    with socket.socket() as listening:
        listening.bind(("127.0.0.1", 0))
        server = uvicorn.Server(
            uvicorn.Config(app, http=GuardedProtocol, ws="none", lifespan="off", log_level="critical", loop="asyncio")
        )
        thread = threading.Thread(target=server.run, kwargs={"sockets": [listening]}, daemon=True)
        thread.start()
        while not server.started:
            time.sleep(0.01)
        yield listening.getsockname()[1]
        server.should_exit = True
        thread.join(10)
    patch.undo()


REQUEST = b"GET / HTTP/1.1\r\nHost: x\r\n\r\n"


def test_requests_on_one_connection(port: int) -> None:
    with socket.create_connection(("127.0.0.1", port), 10) as line:
        for _ in range(3):
            line.sendall(REQUEST[:9])
            time.sleep(0.1)
            line.sendall(REQUEST[9:])
            read_answers(line, 1)
        line.sendall(REQUEST * 3)
        read_answers(line, 3)


def read_answers(line: socket.socket, count: int) -> None:
    got = b""
    while got.count(b"xxxxx") < count:
        more = line.recv(1000)
        assert more, "the connection was closed"
        got += more


@pytest.mark.parametrize("sent", [b"", b"GET / HT", REQUEST + b"GET"])
def test_who_never_finishes_a_request_is_dropped(port: int, sent: bytes) -> None:
    with socket.create_connection(("127.0.0.1", port), 10) as line:
        line.sendall(sent)
        end = time.monotonic() + 8  # a connection that had an answer is kept for 5 s
        while time.monotonic() < end:
            try:
                if not line.recv(1000):
                    return
            except ConnectionError:
                return
    pytest.fail("it was kept")


def test_who_drips_is_dropped(port: int) -> None:
    with socket.create_connection(("127.0.0.1", port), 10) as line, pytest.raises(ConnectionError):
        line.sendall(b"GET / HTTP/1.1\r\n")
        for _ in range(100):
            line.sendall(b"a")
            time.sleep(0.05)


def test_headers_without_end(port: int) -> None:
    with socket.create_connection(("127.0.0.1", port), 10) as line:
        line.sendall(b"GET / HTTP/1.1\r\n" + b"X-Y: " + b"z" * 16_400)
        assert line.recv(100).startswith(b"HTTP/1.1 431 ")


def test_who_does_not_read_is_dropped(port: int) -> None:
    with socket.create_connection(("127.0.0.1", port), 10) as line:
        line.sendall(REQUEST.replace(b"/ ", b"/large "))
        time.sleep(1.5)
        got = 0
        try:
            while part := line.recv(1_000_000):
                got += len(part)
        except ConnectionError:
            pass
        assert 0 < got < SIZE
