"""Links in folders that are written to: nothing is written through one, nor onto a file that Sarvel did not write."""

import itertools
import os
import shutil
import sqlite3
from pathlib import Path

import pytest

from tests.conftest import PAGE, PLAN, run_sarvel

KEPT = ("masters", "secret", ".git", "sarvel.toml", "notes.html", "../around")
"""What no run may change, be it reached through a link."""

FILES = ("masters/gull.jpg", ".git/config", "notes.html", "../around/page.html", "../around/none")
FOLDERS = ("masters", "secret", "../around", "../around/none")

# Places that a run writes to: a plan, the place, and whether a folder is there.
WOVEN = 'woven = "public"\noutput = "public/pictures"\nroot = "public"'
PARTS = '[partials]\nfolder = "parts"\nmacro = "macro.html"\n'
PLACES = {
    "a woven page": (WOVEN, "", "public/index.html"),
    "a copy": (WOVEN, "", "public/style.css"),
    "a woven page in a folder": (WOVEN, "", "public/inner/page.html"),
    "a folder of woven pages/": (WOVEN, "", "public/inner"),
    "the woven folder/": (WOVEN, "", "public"),
    "the folder of image files/": (WOVEN, "", "public/pictures"),
    "the stylesheet": (f'{WOVEN}\nplaceholders = "stylesheet"', "", "public/pictures/pictures.css"),
    "a partial": ("", PARTS, "parts/badge/seal.png.html"),
    "a folder of partials/": ("", PARTS, "parts/badge"),
    "the macro": ("", PARTS, "macro.html"),
    "the manifest": ('manifest = "all.json"', "", "all.json"),
    "the ledger": ("", "", "sarvel.ledger"),
    "the ledger's journal": ("", "", "sarvel.ledger-wal"),
    "a lock": ("", "", ".sarvel.lock"),
    "the cache/": ('delivery = "request"', "", "sarvel.cache"),
    "a page": ("", "", "pages/other.html"),
    "a folder of pages/": ("", "", "pages/more"),
}  # fmt: skip
CASES = [(name, to) for name in PLACES for to in (FOLDERS if name.endswith("/") else FILES)]
CASES.remove(("a page", "notes.html"))  # a page of the author's, woven where it is


def of_others(site: Path) -> dict[str, bytes]:
    """All that is not Sarvel's to write, by path."""
    found = [site / name for name in KEPT]
    files = itertools.chain(*([one] if one.is_file() else one.rglob("*") for one in found))
    return {os.path.relpath(file, site): file.read_bytes() if file.is_file() else b"" for file in files}


@pytest.fixture
def linked(rendered: Path) -> Path:
    """A site with an author's files around it."""
    for name in ("secret", ".git", "pages/inner", "../around"):
        (rendered / name).mkdir()
    (rendered / "pages" / "style.css").write_text("img { height: auto }")
    (rendered / "pages" / "inner" / "page.html").write_text(PAGE.replace("../masters", "../../masters"))
    image = '<img data-sarvel="badge" src="masters/seal.png" alt="A seal">'
    for name in (".git/config", "notes.html", "secret/page.html", "../around/page.html", "../around/style.css"):
        (rendered / name).write_text(image)
    return rendered


@pytest.mark.parametrize(("name", "to"), CASES, ids=[f"{name}-{to}" for name, to in CASES])
def test_nothing_is_written_through_a_link(linked: Path, monkeypatch: pytest.MonkeyPatch, name: str, to: str) -> None:
    monkeypatch.setenv("SARVEL_KEY", "k" * 40)
    keys, tables, place = PLACES[name]
    (linked / "sarvel.toml").write_text(PLAN.replace("[site]", f"[site]\n{keys}") + tables)
    before, link = of_others(linked), linked / place
    link.parent.mkdir(parents=True, exist_ok=True)
    if link.is_dir():
        shutil.rmtree(link)
    link.unlink(missing_ok=True)
    target = os.path.relpath(linked / to, link.parent)
    link.symlink_to(target)
    pages = {file: file.read_bytes() for file in (linked / "pages").rglob("*.html") if not file.is_symlink()}
    for command in (["build", "--workers", "1"], ["weave", "--undo"]):
        done = run_sarvel(*command, cwd=linked)
        assert of_others(linked) == before, (command, done.stderr)
        assert "Traceback" not in done.stderr and "fault of ours" not in done.stderr
    assert {file: file.read_bytes() for file in pages} == pages
    is_folder, own = name.endswith("/"), name in ("the ledger", "the ledger's journal")
    assert own or (link.is_symlink() and str(link.readlink()) == target) or is_folder, "the author's link is gone"


OURS = {
    "public/index.html": "<p>written by its author",
    "public/style.css": "p { color: red }",
    "public/pictures/pictures.css": "p { color: blue }",
    "parts/badge/seal.png.html": "<p>a part",
}


def test_files_that_sarvel_did_not_write_stay_and_the_cure_works(linked: Path) -> None:
    keys = f'{WOVEN}\nplaceholders = "stylesheet"'
    (linked / "sarvel.toml").write_text(PLAN.replace("[site]", f"[site]\n{keys}") + '[partials]\nfolder = "parts"\n')
    for name, text in OURS.items():
        (linked / name).parent.mkdir(parents=True, exist_ok=True)
        (linked / name).write_text(text)
    done = run_sarvel("build", "--workers", "1", cwd=linked)
    assert done.returncode == 1 and {name: (linked / name).read_text() for name in OURS} == OURS
    assert done.stderr.count("Sarvel did not write") >= 1 and (linked / "public" / "inner" / "page.html").exists()
    for name in OURS:
        (linked / name).unlink()
    done = run_sarvel("build", "--workers", "1", cwd=linked)
    assert "did not write" not in done.stderr, done.stderr
    # What it wrote it writes again, be it changed on either side, and without its ledger too.
    for step in ("edit", "no ledger"):
        (linked / "pages" / "style.css").write_text(step)
        (linked / "public" / "index.html").write_text((linked / "public" / "index.html").read_text() + step)
        if step == "no ledger":
            for file in linked.glob("sarvel.ledger*"):
                file.unlink()
        done = run_sarvel("build", "--workers", "1", cwd=linked)
        assert "did not write" not in done.stderr and (linked / "public" / "style.css").read_text() == step
        assert not (linked / "public" / "index.html").read_text().endswith(step)


@pytest.mark.parametrize("ending", ["-wal", "-shm", "-journal"])
def test_files_next_to_a_ledger_that_are_others_as_well_are_not_written(rendered: Path, ending: str) -> None:
    master = rendered / "masters" / "gull.jpg"
    before = master.read_bytes()
    beside = rendered / f"sarvel.ledger{ending}"
    beside.unlink(missing_ok=True)
    os.link(master, beside)
    assert run_sarvel("build", "--workers", "1", cwd=rendered).returncode == 0
    assert master.read_bytes() == before


PIPES = (
    "public/index.html",
    "public/style.css",
    "all.json",
    "sarvel.ledger",
    ".sarvel.lock",
    "public/pictures/pictures.css",
)


@pytest.mark.skipif(not hasattr(os, "mkfifo"), reason="there are no pipes here")
@pytest.mark.parametrize("place", PIPES)
def test_a_pipe_in_a_place_that_is_written_to_keeps_nobody_waiting(linked: Path, place: str) -> None:
    keys = f'{WOVEN}\nplaceholders = "stylesheet"\nmanifest = "all.json"'
    (linked / "sarvel.toml").write_text(PLAN.replace("[site]", f"[site]\n{keys}"))
    (linked / place).parent.mkdir(parents=True, exist_ok=True)
    (linked / place).unlink(missing_ok=True)
    os.mkfifo(linked / place)
    done = run_sarvel("build", "--prune", "--workers", "1", cwd=linked)
    assert "fault of ours" not in done.stderr and done.returncode in (0, 1, 2)


def test_a_ledger_that_is_another_file_as_well_is_no_ledger(rendered: Path) -> None:
    other, ledger = rendered / "other.db", rendered / "sarvel.ledger"
    for file in rendered.glob("sarvel.ledger*"):
        file.unlink()
    with sqlite3.connect(other) as database:
        database.execute("CREATE TABLE mine (value TEXT)")
    database.close()
    before = other.read_bytes()
    os.link(other, ledger)
    done = run_sarvel("render", cwd=rendered)
    assert done.returncode == 0 and "it is kept as" in done.stderr and other.read_bytes() == before


def test_patterns_of_masters_follow_no_folder_links(rendered: Path) -> None:
    (rendered / "around").mkdir()
    (rendered / "around" / "more.png").write_bytes((rendered / "masters" / "seal.png").read_bytes())
    (rendered / "masters" / "link").symlink_to("../around")
    (rendered / "sarvel.toml").write_text(PLAN.replace('sizes = "40px"', 'sizes = "40px"\nmasters = ["**/*"]'))
    done = run_sarvel("plan", "--json", cwd=rendered)
    assert done.returncode == 0 and "link/more.png" not in done.stdout and "gull.jpg" in done.stdout
