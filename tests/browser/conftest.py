"""A real Chromium, headless, and the woven demo site behind a web server."""

import contextlib
import functools
import os
import shutil
import threading
from collections.abc import Iterator
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.webdriver.chrome.service import Service

_FLAGS = ("--headless=new", "--no-sandbox", "--disable-gpu", "--disable-background-networking", "--hide-scrollbars")


class Quiet(SimpleHTTPRequestHandler):
    extensions_map = {**SimpleHTTPRequestHandler.extensions_map, ".avif": "image/avif", ".webp": "image/webp"}  # noqa: RUF012 - as in the base

    def log_message(self, *_: object) -> None:
        pass


def pytest_itemcollected(item: pytest.Item) -> None:
    """Tests that share a browser go to one process."""
    if item.path.parent == Path(__file__).parent and "browser" in getattr(item, "fixturenames", ()):
        item.add_marker(pytest.mark.xdist_group("browser"))


class Server(ThreadingHTTPServer):
    """A server that a page of many images does not find busy."""

    request_queue_size = 128


@contextlib.contextmanager
def served(folder: Path) -> Iterator[str]:
    """The address of a folder, while it is served."""
    handler = functools.partial(Quiet, directory=str(folder))
    with Server(("127.0.0.1", 0), handler) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_port}"
        server.shutdown()


@pytest.fixture(scope="session")
def address(demo: Path) -> Iterator[str]:
    """Where the woven demo site is served."""
    with served(demo / "public") as address:
        yield address


@pytest.fixture(scope="session")
def browser() -> Iterator[webdriver.Chrome]:
    """Chromium; its absence is a failure where CI is set, and a skip elsewhere."""
    chromium, driver = shutil.which("chromium"), shutil.which("chromedriver")
    if not chromium or not driver:
        problem = "no chromium and chromedriver on PATH; scripts/test installs them"
        if os.environ.get("CI"):
            pytest.fail(problem)
        pytest.skip(problem)
    options = webdriver.ChromeOptions()
    options.binary_location = chromium
    for flag in _FLAGS:
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    with webdriver.Chrome(options=options, service=Service(driver)) as chrome:
        yield chrome
