"""Object storage on this machine: moto's S3 server, behind a proxy that counts requests and does harm where it is told to."""

import http.client
import os
from collections.abc import Callable
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from threading import Lock, Thread
from typing import Any

import boto3
from moto.server import ThreadedMotoServer

HERE = "127.0.0.1"
REFUSED = b"<Error><Code>%s</Code><Message>%s</Message></Error>"
Harm = Callable[[str, str], str]
"""Given method and path, says what becomes of a request: "" lets it through; "crop" crops the connection; else a status and a code."""


class S3Here:
    """A server with one bucket, `shop`.

    Attributes:
        asked: method and path of every request, in order.
        harm: what becomes of requests.
    """

    def __init__(self) -> None:
        self.asked: list[tuple[str, str]] = []
        self.harm: Harm = lambda _method, _path: ""
        self._lock = Lock()
        self._moto = ThreadedMotoServer(ip_address=HERE, port=0, verbose=False)
        self._moto.start()
        self._place = self._moto.get_host_and_port()
        self._proxy = ThreadingHTTPServer((HERE, 0), self._handler())
        Thread(target=self._proxy.serve_forever, daemon=True).start()
        self.environment = {
            **{name: value for name, value in os.environ.items() if not name.startswith("AWS_")},
            "AWS_ACCESS_KEY_ID": "nobody",
            "AWS_SECRET_ACCESS_KEY": "very-secret-words",
            "AWS_DEFAULT_REGION": "us-east-1",
            "AWS_ENDPOINT_URL": f"http://{HERE}:{self._proxy.server_port}",
            "AWS_MAX_ATTEMPTS": "2",
        }
        self.client: Any = boto3.client(
            "s3", endpoint_url=f"http://{self._place[0]}:{self._place[1]}", region_name="us-east-1",
            aws_access_key_id="nobody", aws_secret_access_key="nothing",  # noqa: S106 - of nobody
        )  # fmt: skip
        self.client.create_bucket(Bucket="shop")

    def close(self) -> None:
        self.client.close()
        self._proxy.shutdown()
        self._proxy.server_close()
        server = self._moto._server
        self._moto.stop()
        if server is not None:
            server.server_close()

    def sent(self, begin: str = "/shop/") -> list[str]:
        """Paths below a place that files were sent to since the last call; forgets all requests."""
        with self._lock:
            asked, self.asked = self.asked, []
        return [path for method, path in asked if method in ("PUT", "POST") and path.startswith(begin)]

    def files(self, prefix: str) -> dict[str, bytes]:
        """The bytes of all files below a place, by name."""
        listed = self.client.list_objects_v2(Bucket="shop", Prefix=prefix).get("Contents", [])
        keys = [one["Key"] for one in listed]
        return {key[len(prefix) :]: self.client.get_object(Bucket="shop", Key=key)["Body"].read() for key in keys}

    def _handler(self) -> type[BaseHTTPRequestHandler]:
        here = self

        class Handler(BaseHTTPRequestHandler):
            protocol_version = "HTTP/1.1"

            def log_message(self, format: str, *args: object) -> None:  # noqa: A002 - as the base class calls it
                pass

            def handle_all(self) -> None:
                with here._lock:
                    here.asked.append((self.command, self.path))
                    harm = here.harm(self.command, self.path)
                body = self.rfile.read(int(self.headers.get("Content-Length") or 0))
                if harm == "crop":
                    self.close_connection = True
                    return
                if harm:
                    status, _, code = harm.partition(" ")
                    self.answer(int(status), {}, REFUSED % (code.encode(), code.encode()))
                    return
                there = http.client.HTTPConnection(*here._place)
                there.request(self.command, self.path, body, dict(self.headers))
                said = there.getresponse()
                content = said.read()
                headers = {name: value for name, value in said.getheaders() if name.lower() not in ("connection", "transfer-encoding")}  # fmt: skip
                self.answer(said.status, headers, content)
                there.close()

            def answer(self, status: int, headers: dict[str, str], content: bytes) -> None:
                self.send_response(status)
                for name, value in headers.items():
                    if name.lower() != "content-length" or self.command == "HEAD":
                        self.send_header(name, value)
                if self.command != "HEAD":
                    self.send_header("Content-Length", str(len(content)))
                self.end_headers()
                if self.command != "HEAD":
                    self.wfile.write(content)

            do_GET = do_PUT = do_POST = do_HEAD = do_DELETE = handle_all  # noqa: N815 - as the base class calls them

        return Handler
