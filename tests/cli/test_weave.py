"""`sarvel weave`: pages of every encoding, woven and given back."""

import re
import stat
from pathlib import Path

import pytest
from PIL import Image

from sarvel.core.html.master_attribute import MARK
from tests.conftest import PAGE, PLAN, Run

ENCODINGS = {
    "utf-8": PAGE.encode(),
    "with a mark": b"\xef\xbb\xbf" + PAGE.encode(),
    "latin-1": PAGE.encode("latin-1"),
    "utf-16": b"\xff\xfe" + PAGE.encode("utf-16-le"),
    "CRLF": PAGE.replace("\n", "\r\n").encode(),
    "CR": PAGE.replace("\n", "\r").encode(),
    "mixed": PAGE.replace("\n", "\r\n", 2).encode(),
    "no final newline": PAGE.rstrip().encode(),
    "one line": PAGE.replace("\n", " ").encode(),
}


def line_ends(content: bytes) -> set[bytes]:
    return set(re.findall(rb"\r\n|\r|\n", content))


@pytest.mark.parametrize("content", ENCODINGS.values(), ids=ENCODINGS)
def test_woven_and_given_back_byte_for_byte(rendered: Path, sarvel: Run, content: bytes) -> None:
    page = rendered / "pages" / "index.html"
    page.write_bytes(content)
    page.chmod(0o600)
    done = sarvel("weave")
    once = page.read_bytes()
    assert (done.returncode, done.stderr) == (0, "") and once != content
    wide = b"\x00" if content.startswith(b"\xff\xfe") else b""
    assert once.count(wide.join(bytes([letter]) for letter in b"<picture")) == 2
    assert line_ends(once) == (line_ends(content) or {b"\n"})
    assert stat.S_IMODE(page.stat().st_mode) == 0o600
    before = page.stat().st_mtime_ns
    assert "0 files written" in sarvel("weave").stdout and page.stat().st_mtime_ns == before
    sarvel("weave", "--undo")
    assert page.read_bytes() == content


def test_letters_that_an_encoding_lacks_are_written_as_references(rendered: Path, sarvel: Run) -> None:
    (rendered / "sarvel.toml").write_text(PLAN.replace('"A gull"', '"A gull → sea"'), encoding="utf-8")
    page = rendered / "pages" / "index.html"
    page.write_bytes(PAGE.encode("latin-1"))
    sarvel("weave")
    assert b'alt="A gull &#8594; sea"' in page.read_bytes() and b"Kept as it is: \xe9 &amp;" in page.read_bytes()


@pytest.mark.parametrize(
    ("tag", "words"),
    [
        ('<img data-sarvel="bannr" src="../masters/gull.jpg">', "pages/index.html:2:3: no slot 'bannr' in the plan; did you mean banner? Else write [slots.bannr]"),
        ('<img data-sarvel="banner">', "pages/index.html:2:3: names no master; write src"),
        ('<img data-sarvel="banner" src="https://example.com/a.jpg">', "pages/index.html:2:3: names no master"),
        ('<img data-sarvel="badge" src="../masters/seal.png">', "pages/index.html:2:3: has no alt; write it here or in the plan under [masters.\"seal.png\"]"),
        ('<img data-sarvel="banner" src="../masters/seal.png" alt="">', "pages/index.html:2:3: the files of seal.png for banner are not made; run `sarvel render` first"),
        ('<picture><img data-sarvel="badge" src="../masters/seal.png" alt=""><img src="x.png"></picture>', "pages/index.html:2:12: is in a picture element that is not closed, or"),
    ],
)  # fmt: skip
def test_a_tag_at_fault_stays_and_the_rest_is_woven(rendered: Path, sarvel: Run, tag: str, words: str) -> None:
    page = rendered / "pages" / "index.html"
    good = '<img data-sarvel="banner" src="masters/gull.jpg">'
    page.write_text(f"<p>\n  {tag}</p>\n{good}\n")
    done = sarvel("weave")
    assert done.returncode == 1 and done.stderr.startswith(words) and len(done.stderr.splitlines()) == 1
    text = page.read_text()
    assert tag in text and good not in text and text.count(MARK) == 1


def test_diff_writes_nothing(rendered: Path, sarvel: Run) -> None:
    done = sarvel("weave", "--dry-run")
    lines = done.stdout.splitlines()
    assert (
        lines[0] == "--- pages/index.html"
        and '-  <img data-sarvel="banner" src="../masters/gull.jpg" class="wide">' in lines
    )
    assert (rendered / "pages" / "index.html").read_text() == PAGE


def test_a_tree_of_its_own_for_woven_pages(rendered: Path, sarvel: Run) -> None:
    (rendered / "sarvel.toml").write_text(PLAN.replace("[site]", '[site]\nwoven = "public"'))
    (rendered / "pages" / "deep").mkdir()
    (rendered / "pages" / "deep" / "site.css").write_bytes(b"p{}\r\n")
    assert sarvel("weave").returncode == 0
    assert (rendered / "pages" / "index.html").read_text() == PAGE
    assert "<picture" in (rendered / "public" / "index.html").read_text()
    assert (rendered / "public" / "deep" / "site.css").read_bytes() == b"p{}\r\n"


def test_a_read_only_page_stays_as_it_is(rendered: Path, sarvel: Run) -> None:
    page = rendered / "pages" / "index.html"
    page.chmod(0o444)
    done = sarvel("weave")
    assert done.returncode == 1 and "pages/index.html: is read-only and stays as it is" in done.stderr
    assert page.read_text() == PAGE
    (rendered / "sarvel.toml").write_text(PLAN.replace("[site]", '[site]\nwoven = "public"'))
    assert sarvel("weave").returncode == 0 and "<picture" in (rendered / "public" / "index.html").read_text()
    page.chmod(0o644)
    page.write_text(PAGE + "<p>More</p>")
    assert sarvel("weave").returncode == 0 and "More" in (rendered / "public" / "index.html").read_text()


def test_pages_by_file_and_glob(rendered: Path, sarvel: Run) -> None:
    (rendered / "pages" / "other.htm").write_text(PAGE)
    (rendered / "sarvel.toml").write_text(PLAN.replace('["pages"]', '["pages/*.htm", "pages/index.html"]'))
    assert "4 images woven; 2 files" in sarvel("weave").stdout
    assert "2 images restored; 1 file" in sarvel("weave", "--undo", "pages/other.htm").stdout
    assert (rendered / "pages" / "other.htm").read_text() == PAGE != (rendered / "pages" / "index.html").read_text()


def test_slots_take_images_that_name_none_the_first_one_first(rendered: Path, sarvel: Run) -> None:
    plan = (rendered / "sarvel.toml").read_text()
    page = rendered / "pages" / "index.html"
    (rendered / "masters" / "tern-300.jpg").write_bytes((rendered / "masters" / "gull.jpg").read_bytes())
    text = (
        '<img class="round" src="../masters/gull.jpg" alt="Round">\n<img src="../masters/seal.png" width="40" alt="Small">\n'
        '<img src="../masters/tern-300.jpg" srcset="../masters/tern-300.jpg 300w, ../masters/gull.jpg 900w" sizes="9px" alt="Listed">\n'
        '<img src="else.jpg" alt="Not ours">\n'
    )
    page.write_text(text)
    said = plan.replace("[slots.banner]", "[slots.banner]\nselectors = ['[srcset]', '.wide']").replace(
        "[slots.badge]", "[slots.badge]\nselectors = ['.round', '[width=\"40\"]', 'img']"
    )
    (rendered / "sarvel.toml").write_text(said)
    assert sarvel("build", "--quiet", "--strict").returncode == 1  # for the file that is not there
    woven = page.read_text()
    assert woven.count("<img") == 4 and '<img src="else.jpg" alt="Not ours">\n' in woven
    assert "/pictures/gull-badge-" in woven and "/pictures/seal-badge-" in woven
    assert (
        'data-was-srcset="../masters/tern-300.jpg 300w' in woven
        and "/pictures/gull-banner-" in woven
        and "tern-300-" not in woven
    )
    sarvel("weave", "--undo")
    assert page.read_text() == text
    (rendered / "sarvel.toml").write_text(said.replace("'.wide'", "'p > .wide'"))
    done = sarvel("weave")
    assert (
        done.returncode == 2 and "slots.banner.selectors: 'p > .wide' is not a supported selector; write" in done.stderr
    )


# What the tag says, what is taken from the plan and what is put there, and the exit code.
ALTS = {
    "a file name is replaced by the plan's words": ('alt="gull.jpg"', "", "", 0),
    "no words anywhere are asked for": ("", 'alt = "A gull"\n', "", 1),
    "the site lets them be": ("", 'alt = "A gull"\n', 'alt = "leave"\n', 0),
}


@pytest.mark.parametrize(("said", "gone", "new", "code"), ALTS.values(), ids=ALTS)
def test_words_of_images(rendered: Path, sarvel: Run, said: str, gone: str, new: str, code: int) -> None:
    page, file = rendered / "pages" / "index.html", rendered / "sarvel.toml"
    author = f'<img data-sarvel="banner" src="../masters/gull.jpg" {said}>\n'
    page.write_text(author)
    file.write_text(file.read_text().replace(gone, "", 1).replace("[site]\n", f"[site]\n{new}"))
    done = sarvel("weave")
    woven = page.read_text()
    assert done.returncode == code and ("<picture" in woven) == (code == 0)
    if said:
        assert 'data-was-alt="gull.jpg"' in woven and 'alt="A gull"' in woven
        page.write_text(woven.replace('alt="A gull"', 'alt="Mine"'))
        sarvel("weave")
        assert 'alt="Mine"' in page.read_text() and "data-was-alt" not in page.read_text()
        page.write_text(woven)
    assert sarvel("weave", "--undo").returncode == 0 and page.read_text() == author


def test_drawings_in_vectors_are_passed_over_and_moving_pictures_told_of_once(rendered: Path, sarvel: Run) -> None:
    frames = [Image.new("RGB", (20, 20), color) for color in ("red", "blue")]
    frames[0].save(rendered / "masters" / "turning.gif", save_all=True, append_images=frames[1:])
    (rendered / "masters" / "logo.svg").write_text("<svg/>")
    moving = '<img data-sarvel="badge" src="../masters/turning.gif" alt="">'
    (rendered / "pages" / "index.html").write_text(
        f'<img data-sarvel="badge" src="../masters/logo.svg" alt="">{moving}{moving}'
    )
    done = sarvel("build")
    assert done.returncode == 0 and "logo.svg" not in done.stderr and done.stderr.count("turning.gif") == 1
    assert "turning.gif: is animated and stays as it is; a video is lighter, a still of it can be woven" in done.stderr


def test_every_page_tells_of_a_master_that_is_missing_and_undo_of_none(rendered: Path, sarvel: Run) -> None:
    image = '<img data-sarvel="badge" src="../masters/gone.png" alt="">\n'
    (rendered / "pages" / "index.html").write_text(image * 2)
    (rendered / "pages" / "more.html").write_text(image)
    told = sarvel("weave").stderr
    assert all(place in told for place in ("index.html:1:1", "index.html:2:1", "more.html:1:1"))
    assert sarvel("weave", "--undo").returncode == 0


def test_finished_pages_hold_nothing_of_ours_and_are_known_by_their_sources(site: Path, sarvel: Run) -> None:
    plan, page = site / "sarvel.toml", site / "public" / "index.html"
    before = (site / "pages" / "index.html").read_bytes()
    plan.write_text(plan.read_text().replace("[site]", '[site]\nwoven = "public"'))
    assert sarvel("build").returncode == 0
    assert "<picture" in page.read_text() and "data-" not in page.read_text()
    assert "0 files written" in sarvel("build").stdout and "0 files written" in sarvel("weave").stdout
    assert (site / "pages" / "index.html").read_bytes() == before
    done = sarvel("pick", "public/index.html", "--image", "badge", "--device", "360x740@3")
    assert "badge  seal.png" in done.stdout and done.returncode == 0, done.stderr
    page.write_text(page.read_text().replace("50vw", "90vw"))
    done = sarvel("check")
    assert "sizes-contradict-the-slot" in done.stdout and "Run sarvel build" in done.stdout


def test_without_marks_pages_are_left_to_version_control(rendered: Path, sarvel: Run) -> None:
    page = rendered / "pages" / "index.html"
    author = page.read_text()
    assert sarvel("weave", "--marks", "none").returncode == 0
    woven = page.read_text()
    assert "data-" not in woven and woven.count("<picture") == 2
    assert "0 files written" in sarvel("weave", "--marks", "none").stdout and page.read_text() == woven
    assert sarvel("build", "--prune").returncode == 0 and page.read_text() == woven
    named = set(re.findall(r"pictures/([\w.-]+)", woven))
    assert named == {one.name for one in (rendered / "public" / "pictures").iterdir()} & named
    page.write_text(author)
    assert sarvel("weave").returncode == 0 and "data-woven" in page.read_text()
