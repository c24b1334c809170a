"""`sarvel deliver`, the installed program: each file made once, by its sealed address, and nothing else."""

import http.client
import io
import json
import os
import re
import shutil
import signal
import socket
import threading
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlsplit

import pytest
from PIL import Image

from sarvel.core.address.on_request import OnRequest
from sarvel.core.address.seal import Keys
from sarvel.plan.read import read_plan
from sarvel.plan.seal_keys import keys_of
from tests.conftest import run_sarvel, start_sarvel
from tests.serving import Serving, until

SEALED = re.compile(r"/pictures/[^\s\"']*~[\w-]{22}")
NOTE = (
    '[slots.note]\nsizes = "30px"\ndensities = [1, 2, 3]\n\n[masters."gull.jpg"]'  # small, so that its search is quick
)


@dataclass
class Answered:
    """An answer."""

    status: int
    headers: dict[str, str]
    body: bytes


def ask(address: str, path: str, method: str = "GET", **headers: str) -> Answered:
    """One request on a connection of its own."""
    parts = urlsplit(address)
    line = http.client.HTTPConnection(parts.hostname or "", parts.port, timeout=60)
    try:
        line.request(method, path, headers={name.replace("_", "-"): value for name, value in headers.items()})
        answer = line.getresponse()
        return Answered(answer.status, {name.lower(): value for name, value in answer.getheaders()}, answer.read())
    finally:
        line.close()


def on_request(folder: Path, more: str = "") -> list[str]:
    """Has the pictures of a site made on request, and weaves it; returns the addresses of its pages."""
    plan, page = folder / "sarvel.toml", folder / "pages" / "index.html"
    text = plan.read_text().replace("[site]\n", f'[site]\ndelivery = "request"\n{more}')
    plan.write_text(text.replace('[masters."gull.jpg"]', NOTE))
    page.write_text(page.read_text() + '<img data-sarvel="note" src="../masters/gull.jpg">\n')
    assert start_sarvel("deliver", "--new-key", cwd=folder).returncode == 0
    done = run_sarvel("build", cwd=folder)
    assert done.returncode == 0, done.stderr
    return list(dict.fromkeys(SEALED.findall(page.read_text())))


def made(serving: Serving) -> dict[str, int]:
    """How many files were made, by where their encoder's number is from."""
    text = ask(serving.address, "/.sarvel/metrics").body.decode()
    return {
        name: int(float(count))
        for name, count in re.findall(r'^sarvel_files_made_total\{number="(\w+)"\} (\S+)', text, re.M)
    }


def served(folder: Path, *arguments: str) -> Serving:
    return Serving(folder, *arguments, command="deliver")


@dataclass
class Site:
    """A site whose pictures are served."""

    folder: Path
    addresses: list[str]
    serving: Serving


@pytest.fixture(scope="module")
def site(site_before: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Site]:
    folder = tmp_path_factory.mktemp("served") / "site"
    shutil.copytree(site_before, folder)
    addresses = on_request(folder)
    serving = served(folder, "--access-log", "access.log")
    yield Site(folder, addresses, serving)
    serving.process.send_signal(signal.SIGTERM)
    assert serving.process.wait(30) == 0
    lines = [json.loads(line) for line in (folder / "access.log").read_text().splitlines()]
    assert {"time", "method", "path", "status", "bytes", "ms", "from", "client"} == set().union(*lines)
    told = (folder / "access.log").read_text() + serving.text
    assert not any(key in told for key in (folder / "sarvel.key").read_text().split())


def test_each_file_is_made_once_and_is_what_render_makes(site: Site, tmp_path: Path) -> None:
    """Held against the files that another run makes beforehand of the same plan: the digest in their names is the same."""
    with ThreadPoolExecutor(24) as pool:
        answers = list(pool.map(lambda path: ask(site.serving.address, path), site.addresses * 4))
    assert {one.status for one in answers} == {200}
    by_hand = [one for one in site.addresses if "/note/" not in one]
    first = made(site.serving)
    assert first["known"] >= len(by_hand) and first.get("usual", 0) <= len(site.addresses) - len(by_hand)
    until(lambda: all("immutable" in ask(site.serving.address, one).headers["cache-control"] for one in site.addresses))
    assert sum(made(site.serving).values()) <= len(site.addresses) + first.get("usual", 0)

    beforehand = shutil.copytree(
        site.folder, tmp_path / "site", ignore=shutil.ignore_patterns("sarvel.cache", "sarvel.ledger")
    )
    plan = beforehand / "sarvel.toml"
    plan.write_text(plan.read_text().replace('delivery = "request"', ""))
    assert run_sarvel("render", cwd=beforehand).returncode == 0
    files = {file.name.split(".")[-2]: file for file in (beforehand / "public" / "pictures").glob("*-*.*.*")}
    same = 0
    for path in site.addresses:
        answer = ask(site.serving.address, path)
        width, digest, ending = re.search(r"-(\d+)-(\w{10})\.(\w+)~", path).groups()  # type: ignore[union-attr]
        image = Image.open(io.BytesIO(answer.body))
        assert image.width == int(width) and Image.MIME[image.format or ""] == answer.headers["content-type"]
        if digest in files:  # others do not pay
            assert answer.body == files[digest].read_bytes() and files[digest].suffix == f".{ending}"
            same += 1
    assert same >= len(site.addresses) / 2


def test_http(site: Site) -> None:
    path = site.addresses[0]
    whole = ask(site.serving.address, path)
    tag = whole.headers["etag"]
    head = ask(site.serving.address, path, "HEAD")
    assert not head.body and {**head.headers, "date": ""} == {**whole.headers, "date": ""}
    assert ask(site.serving.address, path, If_None_Match=tag).status == 304
    part = ask(site.serving.address, path, Range="bytes=5-9")
    assert (part.status, part.body) == (206, whole.body[5:10])
    assert ask(site.serving.address, path.removeprefix("/pictures")).body == whole.body  # a proxy took the prefix away
    assert ask(site.serving.address, "/.sarvel/health").body == b"well\n"
    assert ask(site.serving.address, path, "POST").status == 405


def request(path: str, more: str = "") -> bytes:
    return f"GET {path} HTTP/1.1\r\nHost: x\r\nConnection: close\r\n{more}\r\n".encode()


def raw(address: str, data: bytes) -> str:
    """The status that bytes are answered with; "" if the connection is dropped."""
    parts = urlsplit(address)
    with socket.create_connection((parts.hostname, parts.port), timeout=30) as line:
        try:
            line.sendall(data)
            return line.recv(4096)[9:12].decode()
        except ConnectionError:
            return ""


HUGE = "9" * 9000


@pytest.mark.parametrize(
    "hostile",
    [
        lambda good: request(good.partition("~")[0]),
        lambda good: request(good[:-1] + ("A" if good[-1] != "A" else "B")),
        lambda good: request(good + "A"),
        lambda good: request(re.sub(r"-(\d+)-", r"-1\1-", good)),
        lambda good: request(good.replace("/banner/", "/badge/")),
        lambda good: request(good.replace("gull.jpg", "seal.png")),
        lambda good: request(good.replace(".webp", ".avif").replace(".jpg~", ".avif~")),
        lambda good: request(good.replace("/gull.jpg/", "/../masters/gull.jpg/")),
        lambda _: request("/pictures/" + "../" * 9 + "etc/passwd~" + "A" * 22),
        lambda _: request("/pictures/" + "..%2f" * 9 + "etc%2fpasswd"),
        lambda _: request("/pictures/%00%ff%c0%af~" + "A" * 22),
        lambda _: request("/sarvel.key"),
        lambda _: request("/pictures/../sarvel.toml"),
        lambda _: request(f"/pictures/banner/gull.jpg/desktop-{HUGE}-0123456789.webp~" + "A" * 22),
        lambda _: request("/" + HUGE * 2),
        lambda good: request(good, "X: " + "y" * 20_000 + "\r\n"),
        lambda good: request(good, "".join(f"X-{number}: y\r\n" for number in range(3000))),
        lambda good: request(good).replace(b"GET", b"BREW"),
        lambda good: request(good).replace(b"HTTP/1.1", b"HTTP/9"),
        lambda _: bytes(range(256)) + b"\r\n\r\n",
        lambda _: b"\x16\x03\x01\x02\x00\x01\x00\x01\xfc\x03\x03" + b"\0" * 100,  # TLS
        lambda _: "GET /pictures/é~ HTTP/1.1\r\nHost: x\r\n\r\n".encode(),
    ],
)  # fmt: skip
def test_hostile_requests_make_nothing(site: Site, hostile: object) -> None:
    cache = site.folder / "sarvel.cache"
    before = sorted(cache.rglob("*.*p*g")), made(site.serving)
    status = raw(site.serving.address, hostile(site.addresses[0]))  # type: ignore[operator]
    assert status == "" or status.startswith("4"), status
    assert (sorted(cache.rglob("*.*p*g")), made(site.serving)) == before


def test_seals_of_other_keys_and_of_what_the_plan_does_not_make(site: Site) -> None:
    """Even who holds the key gets nothing that the plan does not make: another width leads to the next one that it does."""
    path = site.addresses[0].removeprefix("/pictures/").partition("~")[0]
    keys = keys_of(read_plan(site.folder / "sarvel.toml"), {})
    other = Keys((b"o" * 40,))
    assert ask(site.serving.address, f"/pictures/{path}~{other.seal(path)}").status == 404
    odd = re.sub(r"-(\d+)-", "-13-", path)
    before = made(site.serving)
    answer = ask(site.serving.address, f"/pictures/{odd}~{keys.seal(odd)}")
    assert (
        answer.status == 302
        and answer.headers["cache-control"] == "no-store"
        and "-13-" not in answer.headers["location"]
    )
    for gone in (
        path.replace("banner/", "none/"),
        path.replace("gull.jpg", "none.jpg"),
        "banner/../../x/all-9-0123456789",
    ):
        assert ask(site.serving.address, f"/pictures/{gone}~{keys.seal(gone)}").status == 404
    assert made(site.serving) == before
    assert "o" * 40 not in repr(OnRequest("", other)) and keys.secrets[0].decode() not in repr(keys)


def test_a_new_plan_master_and_key_are_taken_up_and_old_addresses_lead_on(site_before: Path, tmp_path: Path) -> None:
    folder = Path(shutil.copytree(site_before, tmp_path / "site"))
    addresses = on_request(folder)
    serving = served(folder)
    banner = next(one for one in addresses if "/banner/" in one)
    assert ask(serving.address, banner).status == 200
    assert start_sarvel("deliver", "--new-key", cwd=folder).returncode == 0
    plan, page = folder / "sarvel.toml", folder / "pages" / "index.html"
    plan.write_text(plan.read_text().replace("webp = 20", "webp = 25"))
    Image.open(folder / "masters" / "gull.jpg").rotate(180).save(folder / "masters" / "gull.jpg")
    assert run_sarvel("build", cwd=folder).returncode == 0
    new = next(one for one in SEALED.findall(page.read_text()) if "/banner/" in one)
    assert new != banner
    until(lambda: ask(serving.address, new).status == 200)
    moved = ask(serving.address, banner)
    assert moved.status == 302 and banner.rpartition("/")[0] + moved.headers["location"].removeprefix(".") == new
    plan.write_text(plan.read_text() + "[no")
    until(lambda: "not TOML" in serving.text)
    assert ask(serving.address, new).status == 200  # the plan as it was before
    first = (folder / "sarvel.key").read_text().split()[0]
    (folder / "sarvel.key").write_text(first + "\n")
    plan.write_text(plan.read_text().removesuffix("[no"))
    until(lambda: ask(serving.address, banner).status == 404)
    (folder / "masters" / "gull.jpg").write_bytes(b"no image")
    until(lambda: ask(serving.address, new).status == 500)
    assert "gull.jpg: is not an image that can be read" in serving.text
    assert serving.end() == 130


def test_one_address_for_all_formats(site_before: Path, tmp_path: Path) -> None:
    folder = Path(shutil.copytree(site_before, tmp_path / "site"))
    [path, *_] = on_request(folder, 'formats_by = "accept"\n')
    serving = served(folder)
    kinds = {}
    for accept in ("image/webp,*/*", "*/*"):
        answer = ask(serving.address, path, Accept=accept)
        kinds[answer.headers["content-type"]] = answer.headers["etag"]
        assert answer.headers["vary"] == "Accept"
    assert kinds.keys() == {"image/webp", "image/jpeg"} and len(set(kinds.values())) == 2
    serving.end()


def test_whatever_is_killed_no_half_file_is_served(site_before: Path, tmp_path: Path) -> None:
    folder = Path(shutil.copytree(site_before, tmp_path / "site"))
    addresses = on_request(folder)

    def whole(serving: Serving, path: str) -> None:
        try:
            answer = ask(serving.address, path)
        except (OSError, http.client.HTTPException):
            return
        Image.open(io.BytesIO(answer.body)).load()

    for number in range(4):
        serving = served(folder)
        threads = [threading.Thread(target=whole, args=(serving, path)) for path in addresses[:4]]
        for thread in threads:
            thread.start()
        time.sleep(0.25 * number)
        os.kill(serving.process.pid, signal.SIGKILL)
        serving.process.wait()
        for thread in threads:
            thread.join()
    for file in (folder / "sarvel.cache").glob("??/[!.]*"):
        Image.open(file).load()
    serving = served(folder)
    assert [ask(serving.address, path).status for path in addresses[:4]] == [200] * 4
    serving.end()


def test_beyond_the_bound_clients_are_told_when_to_come_again(site_before: Path, tmp_path: Path) -> None:
    folder = Path(shutil.copytree(site_before, tmp_path / "site"))
    addresses = on_request(folder)
    serving = served(folder, "--queue", "1", "--workers", "1")
    with ThreadPoolExecutor(len(addresses)) as pool:
        answers = list(pool.map(lambda path: ask(serving.address, path), addresses))
    assert {one.status for one in answers} == {200, 503}
    assert all(1 <= int(one.headers["retry-after"]) <= 60 for one in answers if one.status == 503)
    for path in addresses:
        until(lambda path=path: ask(serving.address, path).status == 200)  # type: ignore[misc]
    serving.end()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (("", ""), 'delivers files from a folder; write delivery = "request" under [site]'),
        (("[site]", '[site]\ndelivery = "request"'), "its addresses are sealed, and there is no key"),
    ],
)
def test_what_is_missing(site_before: Path, tmp_path: Path, change: tuple[str, str], words: str) -> None:
    folder = Path(shutil.copytree(site_before, tmp_path / "site"))
    plan = folder / "sarvel.toml"
    plan.write_text(plan.read_text().replace(*change, 1))
    done = start_sarvel("deliver", "--port", "0", cwd=folder)
    assert done.returncode == 2 and words in done.stderr and "Traceback" not in done.stderr
    done = start_sarvel("deliver", "--port", "0", "--cache-size", "much", cwd=folder)
    assert done.returncode == 2
