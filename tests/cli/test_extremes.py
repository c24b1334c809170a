"""Masters, names, plans and texts at the ends of what there is: each is made, or has its own line; none ends a run."""

import resource
import subprocess
import sys
import unicodedata
import urllib.parse
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from sarvel.core.edition.rendition import Rendition
from sarvel.encode.crop_encoder import CropEncoder
from tests.conftest import PLAN, run_sarvel

ONE = '<!doctype html><meta name="viewport" content="width=device-width"><img data-sarvel="badge" src="../masters/{}" alt="A">'


def site_of(site: Path, plan: str, master: str = "seal.png") -> Path:
    (site / "sarvel.toml").write_text(plan)
    (site / "pages" / "index.html").write_text(ONE.format(master))
    return site


TALL = {
    # px across and down, formats, and what is made of it: the widest of each format, and what is said
    "at the limit of WebP": (60, 16383, ["webp", "jpeg"], {"webp": 60}, ""),
    "a little beyond it": (60, 16384, ["webp", "jpeg"], {"webp": 59}, "made 59 px wide at most: 60x16384 px are more than 16383 px a side"),
    "far beyond it": (60, 40000, ["avif", "webp", "jpeg"], {"jpg": 60}, "webp is left out: it holds 16383 px a side, not 60x40000 px"),
    "beyond JPEG": (60, 66000, ["webp", "jpeg"], {"jpg": 59}, "made 59 px wide at most: 60x66000 px are more than 65500 px a side"),
}  # fmt: skip


@pytest.mark.parametrize(("across", "down", "formats", "widest", "words"), TALL.values(), ids=TALL)
def test_formats_hold_what_they_can(
    site: Path, across: int, down: int, formats: list[str], widest: dict[str, int], words: str
) -> None:
    levels = np.random.default_rng(1).integers(0, 256, (down, across, 3), np.uint8)
    Image.fromarray(levels).save(site / "masters" / "tall.png", compress_level=1)
    plan = PLAN.replace('["webp", "jpeg"]', str(formats).replace("'", '"')).replace(
        'sizes = "40px"', f'sizes = "{across}px"\nwidths = [{across}]'
    )
    plan = plan.replace("widths = 2", 'widths = 2\neffort = "quick"\nquality = { avif = 20, webp = 20, jpeg = 90 }')
    done = run_sarvel("build", "--workers", "1", cwd=site_of(site, plan, "tall.png"))
    assert "cannot be made" not in done.stderr and "fault of ours" not in done.stderr
    assert words in done.stderr
    made = {}
    for file in (site / "public" / "pictures").glob("tall-*"):
        with Image.open(file) as image:
            made[file.suffix[1:]] = image.width
    assert {name: made[name] for name in widest} == widest, done.stderr
    assert (site / "pages" / "index.html").read_text().count("data-woven=") == 1


def test_whatever_a_codec_raises_the_others_are_made(site: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    encode = CropEncoder.encode

    def fails(bench: CropEncoder, one: Rendition) -> bytes:
        if one.name.startswith("seal"):
            raise SystemError("encoder error")
        return encode(bench, one)

    monkeypatch.setattr(CropEncoder, "encode", fails)
    done = run_sarvel("build", "--workers", "1", cwd=site)
    assert (
        done.returncode == 1
        and "seal.png: cannot be made (SystemError('encoder error')); save it in another format" in done.stderr
    )
    assert "run `sarvel render` first" not in done.stderr
    assert (site / "pages" / "index.html").read_text().count("data-woven=") == 1


def test_bad_masters_are_each_named(site: Path) -> None:
    for number in range(6):
        (site / "masters" / f"bad{number}.jpg").write_bytes(b"no image")
    site_of(site, PLAN.replace('sizes = "40px"', 'sizes = "40px"\nmasters = ["bad*.jpg"]'))
    done = run_sarvel("build", "--workers", "1", cwd=site)
    (line,) = [line for line in done.stderr.splitlines() if "is not an image that can be read" in line]
    assert [line.count(f"slots.badge: bad{number}.jpg") for number in range(6)] == [1] * 6 and line.startswith(
        "6 times"
    )


def test_levels_that_are_no_numbers_print_no_warning(site: Path) -> None:
    levels = np.full((120, 120), np.nan, np.float32)
    levels[::2] = 1.0
    Image.fromarray(levels).save(site / "masters" / "nan.tif")
    done = run_sarvel("build", "--workers", "1", cwd=site_of(site, PLAN, "nan.tif"))
    assert done.returncode == 0 and "Warning" not in done.stderr


def test_a_box_of_no_pixel_is_one_of_a_pixel(site: Path) -> None:
    box = '[masters."gull.jpg".crops.banner.desktop]\nbox = [0.5, 0, 0.5000001, 1]\n'
    (site / "sarvel.toml").write_text(PLAN + box)
    done = run_sarvel("build", "--workers", "1", cwd=site)
    assert "crop desktop: the master gives 1 px across" in done.stderr and "cannot be made" not in done.stderr


# One letter of each 512 of Unicode that a file can be called by, and all that separate, join or turn the direction of writing.
LETTERS = [
    chr(code)
    for code in range(1, 0x110000)
    if unicodedata.category(chr(code)) not in ("Cs", "Cn")
    and chr(code) != "/"
    and (code % 0x200 == 0x35 or code < 0x21 or unicodedata.category(chr(code)) in ("Zs", "Zl", "Zp", "Cf"))
    and not (unicodedata.category(chr(code)) == "Co" and code % 0x2000)
]


def test_what_is_drafted_for_names_out_of_every_block_is_read_again(tmp_path: Path) -> None:
    site = tmp_path / "site"
    (site / "img").mkdir(parents=True)
    names = [f"a{letter}b.png" for letter in LETTERS]
    for name in names:
        Image.new("L", (8, 8)).save(site / "img" / name)
    tags = "\n".join(f'<img src="img/{urllib.parse.quote(name)}" alt="" width="8">' for name in names)
    (site / "index.html").write_text(f"<!doctype html>{tags}")
    assert run_sarvel("start", cwd=site).returncode < 2 and len(names) > 200
    done = run_sarvel("plan", "--json", cwd=site)
    assert done.returncode == 0, done.stderr
    assert not any(
        ord(letter) < 32 or letter in "\u202e\u2028\x9b"
        for letter in done.stdout.replace("\n", "") + done.stderr.replace("\n", "")
    )


def test_a_name_with_a_line_end_splits_no_message(site: Path) -> None:
    (site / "masters" / "a\nb\x1b[31m.jpg").write_bytes(b"no image")
    done = run_sarvel("build", "--workers", "1", cwd=site_of(site, PLAN, "a%0Ab%1B[31m.jpg"))
    assert r"a\nb\x1b[31m.jpg: is not an image that can be read" in done.stderr and "\x1b" not in done.stderr
    long = run_sarvel("plan", cwd=site_of(site, PLAN.replace('"40px"', f'"{"1px+" * 2000}"')))
    assert long.returncode == 2 and all(len(line) <= 600 for line in long.stderr.splitlines()), long.stderr


REACH = {
    "/": ("/", "sarvel.toml:2: site.pages: / holds more than a site; write a folder within it\n"),
    "..": ("../../**", "holds more than a site; write a folder within it; or allow it: outside = "),
}


@pytest.mark.parametrize(("pages", "words"), REACH.values(), ids=REACH)
def test_pages_are_not_looked_for_on_the_whole_disk(site: Path, pages: str, words: str) -> None:
    done = run_sarvel("plan", cwd=site_of(site, PLAN.replace('["pages"]', f'["{pages}"]')))
    assert done.returncode == 2 and words in done.stderr and done.stderr.count("\n") == 1


@pytest.mark.parametrize("css", ["div > " * 2000 + "img", "div " * 90 + "img", "img" + ":not(.a)" * 2000])
def test_selectors_of_thousands_of_parts_stop_nothing(site: Path, css: str) -> None:
    page = (
        ONE.format("seal.png")
        + f"<style>{css} {{ width: 9px }}</style>"
        + "<div>" * 1200
        + '<img src="../masters/gull.jpg" alt="A">'
    )
    (site / "pages" / "index.html").write_text(page)
    done = run_sarvel("check", "pages/index.html", cwd=site)
    assert done.returncode < 2 and "fault of ours" not in done.stderr


def test_too_few_file_handles_are_said_with_what_to_do(site: Path) -> None:
    done = subprocess.run(
        [Path(sys.executable).parent / "sarvel", "build", "--workers", "2"],
        cwd=site, capture_output=True, text=True, check=False, timeout=100,
        preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_NOFILE, (20, 20)),
    )  # fmt: skip
    assert done.returncode == 0 or (
        done.returncode == 2 and "raise the limit of this shell with `ulimit -n 1024`" in done.stderr
    )


UNREAD = {
    "a folder": ("pick", "pages", "pages: cannot be read (Is a directory); name a file, not a folder"),
    "a link to itself": ("pick", "loop", "remove the link that leads to itself"),
    "a long name": ("pick", "x" * 300, "write a shorter name"),
    "nothing": ("pick", "none.html", "there is no such file; mend its name"),
}


@pytest.mark.parametrize(("command", "name", "words"), UNREAD.values(), ids=UNREAD)
def test_what_cannot_be_read_has_its_own_cure(site: Path, command: str, name: str, words: str) -> None:
    (site / "loop").symlink_to("loop")
    done = run_sarvel(command, name, cwd=site)
    assert done.returncode == 2 and words in done.stderr and "permissions" not in done.stderr
