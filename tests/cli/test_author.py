"""The author's work through the installed program: nothing lost, nothing written where it may not be."""

import json
import os
import shutil
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path

import pytest

from tests.conftest import PAGE, PLAN, Run


def tree(folder: Path) -> dict[str, bytes]:
    return {file.relative_to(folder).as_posix(): file.read_bytes() for file in folder.rglob("*") if file.is_file()}


def names(folder: Path) -> list[str]:
    return sorted(file.name for file in folder.iterdir())


def with_site(site: Path, keys: str, rest: str = "") -> None:
    (site / "sarvel.toml").write_text(PLAN.replace("[site]\n", f"[site]\n{keys}\n") + rest)


def when(condition: Callable[[], bool], act: Callable[[], object]) -> threading.Thread:
    """Does something as soon as something else has happened."""

    def wait() -> None:
        while not condition():
            time.sleep(0.002)
        act()

    thread = threading.Thread(target=wait, daemon=True)
    thread.start()
    return thread


@pytest.mark.parametrize("woven", ["", 'woven = "public"'], ids=["in place", "elsewhere"])
def test_an_edit_made_while_a_build_renders_is_kept(site: Path, sarvel: Run, woven: str) -> None:
    with_site(site, woven)
    page = site / "pages" / "index.html"
    pictures = site / "public" / "pictures"
    later = PAGE.replace("Kept as it is", "Written meanwhile") + '<img data-sarvel="badge" src="../masters/gull.jpg">\n'
    editor = when(lambda: pictures.is_dir() and bool(list(pictures.iterdir())), lambda: page.write_text(later))
    done = sarvel("build")
    editor.join()
    target = site / "public" / "index.html" if woven else page
    assert "Written meanwhile" in target.read_text() and target.read_text().count("<picture") == 2
    assert done.returncode == 1 and "index.html:6:1: was written while this run was at work" in done.stderr
    assert sarvel("build").returncode == 0 and target.read_text().count("<picture") == 3


def test_a_page_that_changes_at_the_last_moment_is_not_written_over(rendered: Path) -> None:
    """The very moment between reading again and writing: what was written beside it is thrown away."""
    code = """
import pathlib, sys
import sarvel.files.atomic as files, sarvel.cli.main as main
page, count = pathlib.Path("pages/index.html"), 0
def mode(real=files._default_mode):
    return real()
fsync = files.os.fsync
def edit(handle):
    global count
    fsync(handle)
    if count < int(sys.argv[1]):
        count += 1
        page.write_text(page.read_text() + f"<p>edit {count}</p>\\n")
files.os.fsync = edit
sys.exit(main.main(["weave"]))
"""
    for edits, code_wanted, pictures in ((3, 0, 2), (50, 1, 0)):
        page = rendered / "pages" / "index.html"
        page.write_text(PAGE)
        done = subprocess.run(
            [sys.executable, "-c", code, str(edits)], cwd=rendered, capture_output=True, text=True, check=False
        )
        assert done.returncode == code_wanted, done.stderr
        text = page.read_text()
        assert all(f"<p>edit {number}</p>" in text for number in range(1, min(edits, 5) + 1))
        assert text.count("<picture") == pictures
        assert ("was changed by someone else each time" in done.stderr) == bool(code_wanted)
        assert not list(page.parent.glob(".sarvel-*"))


def test_edits_in_woven_blocks_are_kept_or_told_with_their_place(rendered: Path, sarvel: Run) -> None:
    page = rendered / "pages" / "index.html"
    sarvel("weave")
    woven = page.read_text()
    page.write_text(
        woven.replace('alt="A gull"', 'alt="My gull"')
        .replace("</picture>", "<!-- mine --></picture>", 2)
        .replace("<!-- mine --></picture>", "</picture>", 1)
    )
    before = page.read_text()
    done = sarvel("weave")
    assert done.returncode == 1 and "'<!-- mine -->' stands between its tags in the woven block" in done.stderr
    assert done.stderr.startswith("pages/index.html:") and len(done.stderr.splitlines()) == 1
    after = page.read_text()
    assert 'alt="My gull"' in after and "<!-- mine -->" in after
    done = sarvel("weave", "--undo")
    assert (
        done.returncode == 1
        and 'class="wide" alt="My gull">' in page.read_text()
        and "<!-- mine -->" in page.read_text()
    )
    assert before != after


@pytest.mark.parametrize("case", ["slot renamed", "read-only", "decoding fails", "before weaving", "unreadable page"])
def test_prune_takes_no_file_that_a_page_names(site: Path, sarvel: Run, case: str) -> None:
    page = site / "pages" / "index.html"
    assert sarvel("build").returncode == 0
    plan = PLAN.replace('desktop = "2:1"', 'desktop = "3:1"')
    if case == "slot renamed":
        plan = PLAN.replace("[slots.banner]", "[slots.hero]")
    elif case == "read-only":
        page.chmod(0o444)
    elif case == "decoding fails":
        content = (site / "masters" / "gull.jpg").read_bytes()
        (site / "masters" / "gull.jpg").write_bytes(content[: len(content) // 2])
    (site / "sarvel.toml").write_text(plan)
    done = sarvel(*(("render",) if case == "before weaving" else ("build",)), "--prune")
    assert "Traceback" not in done.stderr
    there = names(site / "public" / "pictures")
    for part in page.read_text().replace('"', " ").replace(",", " ").split():
        if part.startswith("/pictures/"):
            assert part.removeprefix("/pictures/") in there, (case, part)


def test_prune_after_weaving_removes_what_nobody_names(site: Path, sarvel: Run) -> None:
    assert sarvel("build").returncode == 0
    before = {name for name in names(site / "public" / "pictures") if "-banner-desktop-" in name}
    (site / "sarvel.toml").write_text(PLAN.replace('desktop = "2:1"', 'desktop = "3:1"'))
    assert sarvel("build", "--prune").returncode == 0
    assert before and not before & set(names(site / "public" / "pictures"))


REFUSED = {
    "manifest on a master": ('manifest = "masters/gull.jpg"', "", "sarvel.toml:2: site.manifest: masters/gull.jpg lies in the masters folder"),
    "manifest on the plan": ('manifest = "sarvel.toml"', "", "site.manifest would be written onto the plan"),
    "manifest on a page": ('manifest = "pages/index.html"', "", "site.manifest would be written onto pages/index.html, pages/index.html; write another place"),
    "manifest outside": ('manifest = "../pictures.json"', "", 'lies outside of the plan\'s folder; write a place within it, or allow that one: outside = ["../pictures.json"] under [site]'),
    "absolute": ('manifest = "/tmp/sarvel-evil.json"', "", "lies outside of the plan's folder"),
    "output among masters": ('output = "masters/made"', "", "site.output: masters/made lies in the masters folder, where nothing is ever written"),
    "output is masters": ('output = "masters"', "", "lies in the masters folder"),
    "manifest on a file of the author's": ('manifest = "package.json"', "", "sarvel.toml:2: site.manifest: package.json is there already, and Sarvel did not write it"),
    "woven outside": ('woven = "../../evil"', "", "sarvel.toml:2: site.woven: ../../evil lies outside"),
    "macro and manifest": ('manifest = "public/all.json"', '[partials]\nfolder = "parts"\nmacro = "public/all.json"\n', "partials.macro would be written onto site.manifest"),
    "partials among masters": ("", '[partials]\nfolder = "masters/parts"\n', "partials.folder: masters/parts lies in the masters folder"),
    "macro on the stylesheet": ("", '[partials]\nfolder = "parts"\nmacro = "public/pictures/pictures.css"\n', "would be written onto pictures.css"),
}  # fmt: skip


@pytest.mark.parametrize(("keys", "rest", "words"), REFUSED.values(), ids=REFUSED)
def test_a_plan_never_writes_onto_its_inputs_or_outside(
    site: Path, sarvel: Run, keys: str, rest: str, words: str
) -> None:
    if "output" in keys:
        (site / "sarvel.toml").write_text(PLAN.replace("[site]\n", f"[site]\n{keys}\n"))
    else:
        with_site(site, keys, rest)
    (site / "package.json").write_text("{}")
    before, around = tree(site), set(names(site.parent))
    done = sarvel("build")
    assert done.returncode == 2 and words in done.stderr and len(done.stderr.splitlines()) == 1, done.stderr
    assert {name: content for name, content in tree(site).items() if "ledger" not in name} == before
    assert set(names(site.parent)) == around


def test_outside_is_written_to_where_the_plan_says_so(site: Path, sarvel: Run) -> None:
    with_site(site, 'manifest = "../www/pictures.json"\noutside = ["../www"]')
    assert sarvel("build").returncode == 0
    assert json.loads((site.parent / "www" / "pictures.json").read_text())["pictures"]


def test_a_woven_folder_among_the_pages_neither_nests_nor_publishes(site: Path, sarvel: Run) -> None:
    (site / ".secret").write_text("x")
    (site / "style.css").write_text("p {}")
    (site / "sarvel.toml").write_text(PLAN.replace('pages = ["pages"]', 'pages = ["."]\nwoven = "public"'))
    assert sarvel("build").returncode == 0
    first = tree(site / "public")
    assert {name for name in first if not name.startswith("pictures/")} == {"pages/index.html", "style.css"}
    assert sarvel("build").returncode == 0 and tree(site / "public") == first


def test_links_are_written_through_and_not_out_of_the_folder(rendered: Path, sarvel: Run) -> None:
    page, real = rendered / "pages" / "index.html", rendered / "real.html"
    page.rename(real)
    page.symlink_to("../real.html")
    real.chmod(0o640)
    assert sarvel("weave").returncode == 0
    assert page.is_symlink() and "<picture" in real.read_text() and real.stat().st_mode & 0o777 == 0o640
    sarvel("weave", "--undo")
    assert page.is_symlink() and real.read_text() == PAGE
    (rendered.parent / "secret.css").write_text("secret")
    (rendered / "pages" / "more.css").symlink_to(rendered.parent / "secret.css")
    (rendered / "pages" / "gone.html").symlink_to("nowhere.html")
    with_site(rendered, 'woven = "public"')
    done = sarvel("weave")
    assert done.returncode == 1 and "pages/more.css: is a link that leads out of" in done.stderr
    assert not (rendered / "public" / "more.css").exists() and (rendered / "public" / "index.html").is_file()


@pytest.mark.skipif(os.name != "posix" or os.geteuid() != 0, reason="only an administrator gives files away")
def test_the_owner_is_kept(rendered: Path, sarvel: Run) -> None:
    page = rendered / "pages" / "index.html"
    os.chown(page, 12345, 23456)
    assert sarvel("weave").returncode == 0
    assert (page.stat().st_uid, page.stat().st_gid) == (12345, 23456)


def test_saving_subjects_keeps_the_plan_that_someone_edits(rendered: Path, sarvel: Run) -> None:
    plan = rendered / "sarvel.toml"
    shutil.copy(plan, rendered / "before.toml")
    plan.write_bytes(b"\xef\xbb\xbf" + plan.read_bytes())
    assert sarvel("subjects", "--save").returncode == 0
    assert plan.read_bytes().startswith(b"\xef\xbb\xbf[site]") and b"subject" in plan.read_bytes()


def test_two_links_to_one_page_are_one_page(rendered: Path, sarvel: Run) -> None:
    (rendered / "pages" / "other.html").symlink_to("index.html")
    done = sarvel("weave")
    assert done.returncode == 0 and (rendered / "pages" / "index.html").read_text().count("<picture") == 2
    assert sarvel("weave", "--undo").returncode == 0 and (rendered / "pages" / "index.html").read_text() == PAGE


def test_a_proof_is_drawn_onto_no_input_and_may_be_drawn_again(rendered: Path, sarvel: Run) -> None:
    before = tree(rendered)
    for output in ("masters/gull.jpg", "masters/new.png", "sarvel.toml", "pages/index.html"):
        done = sarvel("proof", "--output", output)
        assert done.returncode == 2 and f"--output {output}: is read by the plan, and nothing is written" in done.stderr
    after = tree(rendered)  # the ledger may have learnt something
    assert after.keys() == before.keys() and all(
        after[name] == before[name] for name in after if name != "sarvel.ledger"
    )
    plan = rendered / "sarvel.toml"
    plan.write_text(
        plan.read_text().replace("[site]", '[site]\nmasters = "."').replace('"gull.jpg"', '"masters/gull.jpg"')
    )
    for _ in range(2):
        done = sarvel("proof")
        assert done.returncode < 2 and "drawn: proof.png" in done.stdout, done.stderr
