"""The preview's state and pages, without a browser."""

from pathlib import Path

import pytest

from sarvel.browser.site_server import Folders
from sarvel.core.css.device import Device
from sarvel.job.served_folders import folders_of
from sarvel.plan.read import read_plan
from sarvel.server.live import Live
from sarvel.server.preview import Preview, media_type, with_script
from tests.conftest import run_sarvel

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
    assert with_script(page) == after % b'<script src="/.sarvel/live.js" defer></script>'


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
        assert (folders.file(name) is not None) == there, name
    assert run_sarvel("weave", cwd=rendered).returncode == 0
    copied = {file.name for file in (rendered / "www").rglob("*")}
    assert "notes.txt" in copied and not copied & {"sarvel.key", ".env", "ab.webp", "sarvel.toml"}


def test_a_preview_that_is_not_served_yet_has_nobody_to_tell(tmp_path: Path) -> None:
    preview = Preview(Folders([tmp_path]), Live(None), lambda _: None)
    preview.built()
    assert [route.path for route in preview.app().routes][-1] == "/{path:path}"  # type: ignore[attr-defined]
