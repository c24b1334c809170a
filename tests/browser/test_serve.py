"""`sarvel serve` with Chromium: the list in the terminal, pages that reload, and what is refused."""

import contextlib
import functools
import http.client
import re
import shutil
import threading
import urllib.error
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver

from tests.conftest import run_sarvel
from tests.serving import Serving, listed, opened, until

pytestmark = pytest.mark.browser


@pytest.fixture
def site(demo: Path, tmp_path: Path) -> Path:
    return Path(shutil.copytree(demo, tmp_path / "site"))


@pytest.fixture
def served(site: Path) -> Iterator[Serving]:
    serving = Serving(site)
    yield serving
    if serving.process.poll() is None:
        serving.end()


def window(browser: webdriver.Chrome, width: int, density: float = 1) -> None:
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride",
        {"width": width, "height": 800, "deviceScaleFactor": density, "mobile": False},
    )


def test_each_file_that_a_window_would_fetch_is_listed_and_a_change_reloads(
    site: Path, served: Serving, browser: webdriver.Chrome
) -> None:
    window(browser, 360, 3)
    browser.get(f"{served.address}/index.html")
    until(lambda: served.text.count("360x800@3") == 5)
    assert re.search(
        r"fetched /index.html +banner +lamp-at-dusk-\S*phone-1082\S*.avif +1082 px +\d+ kB 360x800@3 +sharp",
        served.text,
    )
    for width, files in ((700, "tablet-1024"), (1100, "desktop-1056"), (1920, "desktop-1280")):
        window(browser, width)
        told = re.compile(rf"{files}\S* .* {width}x800@1")
        until(functools.partial(listed, served, told))
    browser.execute_script("window.before = 1")
    page = site / "pages" / "index.html"
    page.write_text(page.read_text().replace("</body>", "<p id=new>new</p></body>"))
    until(lambda: not browser.execute_script("return window.before") and browser.find_elements("id", "new"))
    browser.execute_cdp_cmd("Emulation.clearDeviceMetricsOverride", {})
    browser.get("about:blank")
    assert served.end() == 130 and "Traceback" not in served.text


def test_an_interrupt_ends_it_while_pages_are_open_and_asking(served: Serving) -> None:
    waiting = opened(f"{served.address}/.sarvel/changes")

    def ask() -> None:
        with contextlib.suppress(OSError, http.client.HTTPException):
            while True:
                opened(f"{served.address}/").read()

    asking = [threading.Thread(target=ask) for _ in range(8)]
    for thread in asking:
        thread.start()
    assert served.end() == 130 and "Traceback" not in served.text and "timeout" not in served.text
    assert waiting.read() == b""
    for thread in asking:
        thread.join()


def test_nothing_is_cached_and_nothing_is_served_from_elsewhere(site: Path, served: Serving) -> None:
    with opened(f"{served.address}/") as page:
        text = page.read()
        assert page.headers["Cache-Control"] == "no-store" and b"/.sarvel/live.js" in text
    assert b"/.sarvel/live.js" not in (site / "public" / "index.html").read_bytes()
    for path in ("/none.png", "/../../etc/passwd", "/..%2f..%2fetc/passwd", "/%2e%2e/%2e%2e/etc/passwd", "/a%00.html"):
        with pytest.raises(urllib.error.HTTPError, match="404"):
            opened(served.address + path)
    for said in (b"", b"[]", b'{"path": "/"}', b'{"path": "/", "width": "x", "height": 1, "density": 1, "first": 1}'):
        with pytest.raises(urllib.error.HTTPError, match="400"):
            opened(f"{served.address}/.sarvel/seen", data=said)
    port = served.address.rsplit(":", 1)[1]
    done = run_sarvel("serve", "--port", port, "--no-watch", cwd=site)
    assert (
        done.returncode == 2
        and f"127.0.0.1:{port}: cannot be listened at (Address already in use); name another" in done.stderr
    )


def test_the_authors_pages_are_served_before_weaving(site: Path) -> None:
    serving = Serving(site, "--before")
    with opened(f"{serving.address}/index.html") as page:
        assert b'data-sarvel="banner"' in page.read()
    with opened(f"{serving.address}/masters/great-lens.jpg") as master:
        assert master.headers["Content-Type"] == "image/jpeg"
    assert serving.end() == 130
