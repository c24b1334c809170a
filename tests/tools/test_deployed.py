"""A deployed site against the one here: by a server on loopback that does one thing wrong at a time."""

import functools
import http.server
import shutil
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from sarvel.browser.fetch import Fetcher
from sarvel.core.css.device import Device
from sarvel.pipeline.listener import Nobody
from sarvel.tools.confirm import deployed
from sarvel.tools.confirm.made_first import make_first
from tests.conftest import run_sarvel

FOR_EVER = "public, max-age=31536000, immutable"


class Answers(http.server.SimpleHTTPRequestHandler):
    """Files of a folder, as a well-kept server sends them; `change` may change status, headers and body."""

    change: Callable[[str, int, dict[str, str], bytes], tuple[int, dict[str, str], bytes]]
    asked: list[str]

    def do_GET(self) -> None:
        self.asked.append(self.path)
        file = Path(self.translate_path(self.path))
        file = file / "index.html" if file.is_dir() else file
        status, body = (200, file.read_bytes()) if file.is_file() else (404, b"none")
        kind = {".webp": "image/webp", ".jpg": "image/jpeg", ".png": "image/png", ".html": "text/html"}.get(
            file.suffix, "x/y"
        )
        headers = {"Content-Type": kind, "Cache-Control": FOR_EVER if "image" in kind else "no-cache"}
        status, headers, body = type(self).change(self.path, status, headers, body)
        self.send_response(status)
        for name, value in {**headers, "Content-Length": str(len(body))}.items():
            self.send_header(name, value)
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *_: object) -> None:
        pass


def as_it_is(_path: str, status: int, headers: dict[str, str], body: bytes) -> tuple[int, dict[str, str], bytes]:
    return status, headers, body


@pytest.fixture
def woven(site_rendered: Path, tmp_path: Path) -> Path:
    folder = Path(shutil.copytree(site_rendered, tmp_path / "site"))
    plan = folder / "sarvel.toml"
    plan.write_text(plan.read_text().replace("[site]", '[site]\nwoven = "public"\n'))
    assert run_sarvel("build", cwd=folder).returncode == 0
    return folder


@pytest.fixture
def server(woven: Path, tmp_path: Path) -> Iterator[str]:
    live = shutil.copytree(woven / "public", tmp_path / "live")
    Answers.change, Answers.asked = staticmethod(as_it_is), []
    serving = http.server.ThreadingHTTPServer(("127.0.0.1", 0), functools.partial(Answers, directory=str(live)))
    threading.Thread(target=serving.serve_forever, daemon=True).start()
    yield f"http://127.0.0.1:{serving.server_port}/"
    serving.shutdown()
    serving.server_close()


def changed(**said: str) -> object:
    """Files of the folder of pictures with other headers."""
    return lambda path, status, headers, body: (
        (status, {**headers, **{name.replace("_", "-"): value for name, value in said.items()}}, body)
        if path.endswith((".webp", ".jpg"))
        else (status, headers, body)
    )


def only(ending: str, status: int | None = None, body: bytes | None = None) -> object:
    return lambda path, was, headers, content: (
        (was if status is None else status, headers, content if body is None else body)
        if path.endswith(ending)
        else (was, headers, content)
    )


def test_all_is_as_it_should_be(woven: Path, server: str) -> None:
    done = run_sarvel("confirm", "--against", server, cwd=woven)
    assert done.returncode == 0, done.stdout + done.stderr
    assert "all as they should be" in done.stdout and "index.html" in done.stdout and not done.stderr
    assert len(Answers.asked) == len(set(Answers.asked)) > 8  # each file once


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (
            changed(Cache_Control="max-age=600"),
            "may be kept for 10 minutes though its address changes with its contents; send",
        ),
        (changed(Cache_Control="no-store"), "may be kept for 0 s though"),
        (changed(Cache_Control="max-age=31536000"), "is asked for again when a page is reloaded; send Cache-Control"),
        (changed(Content_Type="text/plain"), "and is sent as text/plain"),
        (only(".webp", status=404), "is answered with 404"),
        (only(".webp", body=b"<html>"), "is no image that can be read"),
        (only("index.html", status=500), "is answered with 500; deploy it, or mend the address"),
        (only("index.html", body=b"<!doctype html><p>old"), "'banner gull.jpg' is not woven there as here"),
    ],
)
def test_what_is_wrong_is_told(woven: Path, server: str, change: object, words: str) -> None:
    Answers.change = staticmethod(change)  # type: ignore[assignment,arg-type]
    done = run_sarvel("confirm", "--against", server, "--verbose", cwd=woven)
    assert done.returncode == 1 and words in done.stderr, done.stderr


def test_other_bytes_widths_and_formats(woven: Path, server: str) -> None:
    files = sorted((woven / "public" / "pictures").glob("*.webp"), key=lambda one: one.stat().st_size)
    jpeg = next((woven / "public" / "pictures").glob("gull*.jpg")).read_bytes()
    other = {files[0].name: files[-1].read_bytes(), files[-1].name: jpeg, files[1].name: files[1].read_bytes() + b"\0"}
    Answers.change = staticmethod(  # type: ignore[assignment]
        lambda path, status, headers, body: (status, headers, other.get(path.rpartition("/")[2], body))
    )
    done = run_sarvel("confirm", "--against", server, "--verbose", cwd=woven)
    for words in (
        "px wide, and should be ",
        "is image/jpeg, and should be image/webp",
        "has other bytes than the file made here",
    ):
        assert words in done.stderr, (words, done.stderr)


def test_a_page_of_an_earlier_build_and_what_devices_get_of_it(woven: Path, server: str, tmp_path: Path) -> None:
    live = tmp_path / "live" / "index.html"
    live.write_text(live.read_text().replace("50vw", "10vw"))
    names = [file for file in (woven / "public" / "pictures").iterdir() if "banner" in file.name]
    live.write_text(live.read_text().replace(names[0].name, names[1].name))
    done = run_sarvel("confirm", "--against", server, "--device", "1440x900@1", cwd=woven)
    assert done.returncode == 1 and "'banner gull.jpg' is not woven there as here" in done.stderr


def test_nobody_answers(woven: Path, server: str) -> None:
    gone = server.replace(server.split(":")[2], "9/")  # the port that discards, where nobody listens
    done = run_sarvel("confirm", "--against", gone, cwd=woven)
    assert (
        done.returncode == 1
        and "refuses connections; deploy it" in done.stderr
        and "none can be looked at" in done.stdout
    )
    for said, words in (("ftp://h/", "is no address of the web"), ("here", "is no address of the web")):
        done = run_sarvel("confirm", "--against", said, cwd=woven)
        assert done.returncode == 2 and words in done.stderr
    done = run_sarvel("confirm", "--against", server, "none.html", cwd=woven)
    assert done.returncode == 2 and "no page that a browser shows" in done.stderr


def test_a_server_that_says_when_to_come_again(server: str) -> None:
    busy = [2]

    def change(_path: str, status: int, headers: dict[str, str], body: bytes) -> tuple[int, dict[str, str], bytes]:
        busy[0] -= 1
        return (503, {**headers, "Retry-After": "0"}, b"") if busy[0] >= 0 else (status, headers, body)

    Answers.change = staticmethod(change)
    assert Fetcher().get(f"{server}index.html", "*/*").status == 200
    Answers.change = staticmethod(only("index.html", body=b"x" * 17_000_000))  # type: ignore[assignment,arg-type]
    assert Fetcher().get(f"{server}index.html", "*/*").problem == "has more than 16 MB"


@pytest.mark.parametrize(
    ("said", "words"),
    [
        (FOR_EVER, []),
        ("public, max-age=2592000, IMMUTABLE", []),
        ("max-age=7200", ["may be kept for 2 hours"]),
        ("max-age=864000, immutable", ["may be kept for 10 days"]),
        ("private, max-age=31536000, immutable", ["may be kept for 365 days"]),
        ("", ["may be kept for 0 s"]),
    ],
)
def test_how_long_a_file_may_be_kept(said: str, words: list[str]) -> None:
    assert [one.partition(" though")[0] for one in deployed._kept(said)] == words


def test_what_devices_will_ask_for_is_made_first(woven: Path) -> None:
    from sarvel.pages.read.page_files import PageFile

    page = PageFile(woven / "pages" / "index.html", woven / "public" / "index.html")
    asked: list[str] = []
    devices = [Device(360, 740, 3), Device(1440, 900, 1)]
    make_first([(page, "/index.html")], devices, asked.append, Nobody())
    assert len(asked) == len(set(asked)) and {one.split("-")[1] for one in asked} >= {"banner", "badge"}
    assert all((woven / "public" / one.lstrip("/")).is_file() for one in asked)
