"""The preview's state and pages, without a browser."""

import json
import re
import threading
from pathlib import Path
from typing import Any

import pytest
from starlette.datastructures import Headers

from sarvel.browser.site_server import Folders
from sarvel.core.css.device import Device
from sarvel.plan.read import read_plan
from sarvel.server.live import Live
from sarvel.server.own_host import is_asked_by_page
from sarvel.server.preview import Preview, media_type, with_script
from sarvel.tools.pick import Outcome, PageImage
from sarvel.tools.serving.published import Published
from sarvel.tools.serving.served_folders import folders_of
from tests.conftest import PLAN, run_sarvel
from tests.serving import asked

PAGE = '<img data-sarvel="card" srcset="p/a-400.webp 400w, p/a-800.webp 800w" sizes="50vw" src="p/a-400.webp"><img src="p/b.png">'


@pytest.mark.parametrize(
    ("page", "after"),
    [
        (b"<body>a</body></html>", b"<body>a%b</body></html>"),
        (
            b"<pre>&lt;/body&gt;</pre><!-- </body> --> x </BODY >",
            b"<pre>&lt;/body&gt;</pre><!-- </body> --> x %b</BODY >",
        ),
        (b"<p>\xff", b"<p>\xff%b"),
    ],
)
def test_the_script_goes_before_the_end_of_the_body(page: bytes, after: bytes) -> None:
    script = b'<script src="/.sarvel/live.js" data-path="/a&quot;.html" data-token="t" defer></script>'
    assert with_script(page, '/a".html', "t") == after % script


@pytest.mark.parametrize(
    ("name", "kind"), [("a.HTM", "text/html"), ("a.avif", "image/avif"), ("a", "application/octet-stream")]
)
def test_media_types(name: str, kind: str) -> None:
    assert media_type(Path(name)) == kind


def test_what_a_window_fetches_and_what_it_would_fetch_afresh(tmp_path: Path) -> None:
    page = tmp_path / "p.html"
    page.write_text(PAGE)
    live = Live(None)
    live.ask("/p.html", "/p/a-400.webp", 1000)
    live.ask("/p.html", "/p/behind.png", 2000)
    first = live.rows_of_view("/p.html", page, Device(640, 800), first=True)
    assert [(row.file, row.fetched, row.slot) for row in first] == [("a-400.webp", True, "card"), ("b.png", False, "")]
    assert live.rows_of_view("/p.html", page, Device(800, 800), first=False) == []  # the same files do
    [row] = live.rows_of_view("/p.html", page, Device(1600, 800), first=False)
    assert (row.file, row.fetched, str(row.device)) == ("a-800.webp", False, "1600x800@1")
    assert len(live.rows_of_view("/p.html", page, Device(1600, 800), first=True)) == 2  # loaded again
    assert [(row.file, row.weight) for row in live.rows_unexplained(0)] == [("behind.png", 2000)]
    assert (
        live.rows_unexplained(0) == []
        and live.rows_of_view("/p.html", tmp_path / "gone", Device(9, 9), first=True) == []
    )


def test_woven_pages_come_before_the_authors_or_behind_them(rendered: Path) -> None:
    plan_file = rendered / "sarvel.toml"
    plan_file.write_text(plan_file.read_text().replace('pages = ["pages"]', 'pages = ["pages"]\nwoven = "woven"'))
    (rendered / "woven").mkdir()
    for folder in ("woven", "pages"):
        (rendered / folder / "index.html").write_text(folder)
    plan = read_plan(plan_file)
    for before, folder in ((False, "woven"), (True, "pages")):
        found = folders_of(plan, before=before).file("/index.html")
        assert found and found.read_text() == folder
    made = next(plan.output.glob("*.webp")).name
    assert folders_of(plan, before=False).file(f"/pictures/{made}") == plan.output / made


def test_keys_and_hidden_files_are_not_served_nor_published(rendered: Path) -> None:
    """The pages' folder is the plan's, and with it what lies beside pages is copied."""
    plan_file = rendered / "sarvel.toml"
    (rendered / "index.html").write_text("<!doctype html><p>page")
    plan_file.write_text(plan_file.read_text().replace('pages = ["pages"]', 'pages = ["."]\nwoven = "www"'))
    for name in (".env", "sarvel.key", "notes.txt", "sarvel.cache/ab/ab.webp"):
        (rendered / name).parent.mkdir(parents=True, exist_ok=True)
        (rendered / name).write_text("secret")
    folders = folders_of(read_plan(plan_file), before=True)
    for name, there in (("/notes.txt", True), ("/index.html", True), ("/.env", False), ("/sarvel.key", False)):
        assert (folders.file(name, asked=True) is not None) == there, name
    assert folders.file("/notes.txt", asked=False) is None
    assert run_sarvel("weave", cwd=rendered).returncode == 0
    copied = {file.name for file in (rendered / "www").rglob("*")}
    assert "notes.txt" in copied and not copied & {"sarvel.key", ".env", "ab.webp", "sarvel.toml"}


def test_a_preview_that_is_not_served_yet_has_nobody_to_tell(tmp_path: Path) -> None:
    preview = Preview(Folders([tmp_path]), Live(None), lambda _: None)
    preview.built()
    assert [route.path for route in preview.app().routes][-1] == "/{path:path}"  # type: ignore[attr-defined]


NOT_OF_THE_SITE = (
    *("sarvel.toml", "sarvel.toml~", "sarvel.ledger", "sarvel.ledger-wal", "sarvel.ledger.damaged"),
    *("sarvel.key", "sarvel.key~", "sarvel.key.bak", "keys.txt", "visits.csv", "sarvel.cache/ab/ab.webp"),
    *(
        "secrets.json",
        "package.json",
        "composer.lock",
        ".env",
        ".git/config",
        "pages/.htpasswd",
        "pages/.hidden/a.html",
    ),
    *(
        "index.php",
        "pages/index.php",
        "pages/config.inc",
        "app.py",
        "notes.md",
        "pages/backup.zip",
        "pages/site.sql",
        "Makefile",
    ),
    *("node_modules/a/a.js", "pages/node_modules/a.css", "pages/__pycache__/a.js", "bower_components/a.css"),
    *(
        "masters/secret.png",
        "masters/deep/other.jpg",
        "report.html",
        "drafts/page.html",
        "pages/data.json",
        "data.json",
    ),
)
OF_THE_SITE = (
    *("pages/index.html", "pages/other.html", "style.css", "pages/a.mjs", "pages/a.woff2", "film.mp4", "drawing.svg"),
    *("masters/gull.jpg", "public/open.json", "public/.well-known/security.txt", "public/robots.txt"),
)
"""Files below the plan's folder; those of `pages` and `public` are served as / too."""


@pytest.fixture
def guarded(site: Path) -> Path:
    """A site among what is none of it."""
    for name in (*NOT_OF_THE_SITE, *OF_THE_SITE):
        (site / name).parent.mkdir(parents=True, exist_ok=True)
        if not (site / name).exists():
            (site / name).write_text("secret" if name in NOT_OF_THE_SITE else "shown")
    (site / "report.html").write_text('<!doctype html>\n<meta name="generator" content="sarvel">secret')
    (site.parent / "around.css").write_text("secret")
    for link, to in (
        ("public/around.css", "../../around.css"), ("public/etc", "/etc"), ("public/plan.css", "../sarvel.toml"),
        ("public/secret.css", "../secrets.json"), ("public/photo.png", "../masters/secret.png"), ("public/git", "../.git"),
        ("public/passwd.txt", "/etc/passwd"), ("public/modules", "../node_modules"),
    ):  # fmt: skip
        (site / link).symlink_to(to)
    (site / "sarvel.toml").write_text(PLAN.replace("[site]", '[site]\naudience = "visits.csv"'))
    (site / "visits.csv").write_text("width,height,density,share\n390,844,3,1\n")
    return site


def preview_of(site: Path, monkeypatch: pytest.MonkeyPatch) -> Preview:
    monkeypatch.setenv("SARVEL_KEY_FILE", str(site / "keys.txt"))
    plan = read_plan(site / "sarvel.toml")
    return Preview(folders_of(plan, before=False), Live(plan), lambda _: None, ["192.0.2.7"])


def test_what_is_no_part_of_a_site_is_not_served(guarded: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    app = preview_of(guarded, monkeypatch).app()
    links = [
        f"public/{name}" for name in ("around.css", "plan.css", "secret.css", "photo.png", "git/config", "passwd.txt")
    ]
    links += ["public/etc/hosts.txt", "public/modules/a/a.js"]
    for name in (*NOT_OF_THE_SITE, *links):
        for path in {f"/{name}", "/" + name.removeprefix("pages/").removeprefix("public/")}:
            for spelled in (path, path.replace("e", "%65"), path.replace("/", "//"), f"/pages/..{path}", f"/.{path}"):
                status, body = asked(app, spelled)
                assert status == 404 and b"secret" not in body, spelled
    for name in OF_THE_SITE:
        status, body = asked(app, "/" + name.removeprefix("pages/").removeprefix("public/"))
        assert status == 200 and body, name


SAME = {"sec_fetch_site": "same-origin", "sec_fetch_mode": "cors"}


@pytest.mark.parametrize(
    ("fields", "status"),
    [
        ({}, 404),
        (SAME, 200),
        ({"referer": "http://localhost:8123/index.html"}, 200),
        ({"referer": "http://evil.example/"}, 404),
        ({"sec_fetch_site": "none", "sec_fetch_mode": "navigate"}, 404),
        ({"sec_fetch_site": "cross-site", "referer": "http://localhost:8123/"}, 404),
    ],
)
def test_data_next_to_pages_is_for_pages_that_ask(
    guarded: Path, monkeypatch: pytest.MonkeyPatch, fields: dict[str, str], status: int
) -> None:
    app = preview_of(guarded, monkeypatch).app()
    assert asked(app, "/data.json", **fields)[0] == status
    assert asked(app, "/sarvel.key", **fields)[0] == asked(app, "/index.php", **fields)[0] == 404


@pytest.mark.parametrize(
    ("fields", "status"),
    [
        ({}, 200),
        ({"host": "127.0.0.1:8123"}, 200),
        ({"host": "[::1]:9"}, 200),
        ({"host": "192.0.2.7:8123"}, 200),
        ({"host": "LOCALHOST"}, 200),
        ({"host": "evil.example"}, 421),
        ({"host": "localhost.evil.example:8123"}, 421),
        ({"host": "evil.example@localhost"}, 421),
        ({"host": "localhost/evil"}, 421),
        ({"host": "[::1"}, 421),
        ({"host": ""}, 421),
        ({"origin": "http://localhost:8123"}, 200),
        ({"origin": "http://localhost:9000"}, 403),
        ({"origin": "http://evil.example"}, 403),
        ({"origin": "null"}, 403),
    ],
)
def test_only_its_own_names_are_answered(
    guarded: Path, monkeypatch: pytest.MonkeyPatch, fields: dict[str, str], status: int
) -> None:
    app = preview_of(guarded, monkeypatch).app()
    got = {asked(app, path, **fields)[0] for path in ("/", "/style.css", "/.sarvel/live.js")}
    assert got == {status}
    if status != 200:
        assert asked(app, "/.sarvel/changes", **fields)[0] == status
        assert asked(app, "/.sarvel/seen", "POST", [b"{}"], **fields)[0] == status


def test_a_page_tells_of_its_own_window_and_of_little(guarded: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    preview = preview_of(guarded, monkeypatch)
    app = preview.app()
    token = re.search(rb'data-path="/" data-token="(\w+)"', asked(app, "/")[1])
    assert token
    seen = {"path": "/", "token": token[1].decode(), "width": 390, "height": 844, "density": 3, "first": True}
    for change, status in (
        ({}, 204), ({"path": "/other.html"}, 403), ({"token": ""}, 403), ({"token": "\udc80"}, 403), ({"width": "x"}, 400),
    ):  # fmt: skip
        assert asked(app, "/.sarvel/seen", "POST", [json.dumps({**seen, **change}).encode()])[0] == status, change
    for body in (b"", b"[]", b"[" * 1900, b"\xff"):
        assert asked(app, "/.sarvel/seen", "POST", [body])[0] == 400
    large = [b"x" * 1000] * 1000
    assert asked(app, "/.sarvel/seen", "POST", large)[0] == 413 and len(large) > 990, "it was read on"
    assert list(preview._views) == ["/"]


def test_masters_are_published_by_the_pages_that_name_them(guarded: Path) -> None:
    plan = read_plan(guarded / "sarvel.toml")
    published = Published(plan, [], [plan.root, plan.folder])  # no page names any
    assert not published(guarded / "masters" / "gull.jpg", asked=True)
    assert published(guarded / "public" / "open.json", asked=False)
    assert is_asked_by_page(Headers({"host": "a:1", "referer": "http://a:1/x"})) and not is_asked_by_page(
        Headers({"host": "a:1"})
    )


def test_a_large_page_keeps_nobody_waiting(tmp_path: Path) -> None:
    """While the list of a page is worked out, others are served: nothing holds the lock that they need."""
    page, began = tmp_path / "p.html", threading.Event()
    page.write_text(PAGE * 2000)
    live = Live(None)
    slow, go_on = live._outcomes, threading.Event()

    def outcomes(file: Path, device: Device) -> list[tuple[PageImage, Outcome]]:
        began.set()
        assert go_on.wait(60)
        return slow(file, device)

    live._outcomes = outcomes  # type: ignore[method-assign]
    rows: list[Any] = []
    at_work = threading.Thread(
        target=lambda: rows.extend(live.rows_of_view("/p.html", page, Device(640, 800), first=True))
    )
    at_work.start()
    assert began.wait(60)
    live.ask("/p.html", "/a.png", 10)
    assert len(live.rows_unexplained(0)) == 1
    go_on.set()
    at_work.join()
    assert 0 < len(rows) <= 1000
