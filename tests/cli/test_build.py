"""`sarvel build` and `sarvel render`, as a user runs them."""

import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from PIL import Image

from tests.conftest import PLAN, Run


def pictures(site: Path) -> dict[str, int]:
    return {file.name: file.stat().st_mtime_ns for file in (site / "public" / "pictures").iterdir()}


def test_the_whole_job(site: Path, sarvel: Run) -> None:
    done = sarvel("build")
    assert done.returncode == 0 and "the master gives 900 px across" in done.stderr  # small, and a user is told so
    assert "gull.jpg" in done.stdout and "saves" in done.stdout
    page = (site / "pages" / "index.html").read_text()
    assert "Kept as it is: é &amp; <b>more</b>" in page and 'alt="A gull"' in page
    for name in pictures(site):
        assert f"/pictures/{name}" in page
        with Image.open(site / "public" / "pictures" / name) as image:
            image.load()
            assert name.split(".")[0].endswith(f"-{image.width}")


def test_only_what_is_missing_or_changed_is_made_again(site: Path, sarvel: Run) -> None:
    first = json.loads(sarvel("render", "--json").stdout)
    before = pictures(site)
    assert sorted(before) == first["rendered"]["made"]
    again = json.loads(sarvel("render", "--json").stdout)
    assert (
        again["rendered"] == {"made": [], "kept": len(before), "left_out": [], "pruned": [], "altered": []}
        and pictures(site) == before
    )
    gone = next(name for name in before if name.startswith("gull-banner-phone"))
    (site / "public" / "pictures" / gone).unlink()
    rendered = json.loads(sarvel("render", "--json").stdout)["rendered"]
    assert rendered == {"made": [gone], "kept": len(before) - 1, "left_out": [], "pruned": [], "altered": []}
    (site / "sarvel.toml").write_text(PLAN.replace('desktop = "2:1"', 'desktop = "3:1"'))
    changed = json.loads(sarvel("render", "--json").stdout)["rendered"]["made"]
    assert changed and all("-banner-desktop-" in name for name in changed)
    assert before.items() - {(gone, before[gone])} <= pictures(site).items()


def test_same_bytes_on_any_number_of_workers(site: Path, sarvel: Run) -> None:
    folder = site / "public" / "pictures"
    results = []
    for workers in ("1", "3"):
        sarvel("render", "--workers", workers)
        results.append({file.name: file.read_bytes() for file in folder.iterdir()})
        for file in folder.iterdir():
            file.unlink()
    assert results[0] == results[1] and len(results[0]) > 5


@pytest.mark.parametrize(
    ("name", "content", "words"),
    [
        (
            "gull.jpg",
            None,
            "pages/index.html:3:3: gull.jpg: there is no such file in the masters folder; put it there or mend its name",
        ),
        ("gull.jpg", b"hello", "pages/index.html:3:3: gull.jpg: is not an image that can be read; save it as"),
        ("gull.jpg", b"", "pages/index.html:3:3: gull.jpg: is not an image that can be read; save it as"),
        ("gull.jpg", 5000, "gull.jpg: is damaged (image file is truncated"),
    ],
    ids=["missing", "no image", "empty", "truncated"],
)
@pytest.mark.parametrize("workers", ["1", "2"])
def test_one_bad_master_stops_no_other(
    site: Path, sarvel: Run, name: str, content: bytes | int | None, words: str, workers: str
) -> None:
    master = site / "masters" / name
    if content is None:
        master.unlink()
    else:
        master.write_bytes(content if isinstance(content, bytes) else master.read_bytes()[:content])
    done = sarvel("build", "--workers", workers)
    assert done.returncode == 1
    lines = done.stderr.splitlines()
    assert [line for line in lines if line.startswith(words)] and "Traceback" not in done.stderr
    page = (site / "pages" / "index.html").read_text()
    assert 'src="../masters/gull.jpg" class="wide">' in page  # left as its author wrote it
    assert "/pictures/seal-badge-" in page


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("build", "--plan", "none.toml"), "none.toml: there is no such file; name the plan with --plan FILE"),
        (("build", "--plan", "masters/gull.jpg"), "masters/gull.jpg: byte 0 is not UTF-8, which TOML is written in"),
        (("build", "--plan", "pages/index.html"), "pages/index.html:1:1: not TOML: Invalid statement"),
        (("render", "--workers", "0"), "--workers: got '0', write a whole number from 1"),
        (("weave", "other.html"), "other.html: is no page of the plan; name it under site.pages in sarvel.toml"),
        (("mend",), "sarvel: no command 'mend'"),
    ],
)
def test_wrong_calls_do_nothing_and_say_why(site: Path, sarvel: Run, arguments: tuple[str, ...], words: str) -> None:
    done = sarvel(*arguments)
    assert done.returncode == 2 and words in done.stderr and done.stdout == ""
    assert "Traceback" not in done.stderr and not (site / "public").exists()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (("widths = 2", "wdiths = 2"), "sarvel.toml:11: defaults.wdiths: unknown key; did you mean 'widths'?"),
        (('pages = ["pages"]', 'pages = ["pgs"]'), "site.pages: 'pgs' matches no file in"),
        (("[slots.banner]", "[slots.banner"), "sarvel.toml:13:14: not TOML: "),
    ],
)
def test_wrong_plans(site: Path, sarvel: Run, change: tuple[str, str], words: str) -> None:
    (site / "sarvel.toml").write_text(PLAN.replace(*change))
    done = sarvel("build")
    assert done.returncode == 2 and words in done.stderr and len(done.stderr.splitlines()) == 1


def test_no_plan_at_all(sarvel: Run, tmp_path_factory: pytest.TempPathFactory) -> None:
    done = sarvel("build", cwd=tmp_path_factory.mktemp("empty"))
    assert done.returncode == 2 and "no sarvel.toml here or in any folder above; run sarvel start" in done.stderr


@pytest.mark.parametrize("workers", ["1", "2"])
def test_output_that_cannot_be_written(site: Path, sarvel: Run, workers: str) -> None:
    (site / "public").mkdir()
    (site / "public" / "pictures").write_text("a file where the folder should be")
    done = sarvel("render", "--workers", workers)
    assert done.returncode == 2 and len(done.stderr.splitlines()) == 1
    assert "cannot be written (Not a directory); a part of its path is no folder; mend its name" in done.stderr or (
        "cannot be written (File exists)" in done.stderr
    )


def test_masters_the_plan_names_and_nobody_has(site: Path, sarvel: Run) -> None:
    (site / "sarvel.toml").write_text(PLAN + '[masters."none.jpg"]\nalt = ""\n')
    done = sarvel("render")
    assert done.returncode == 1 and 'sarvel.toml:25: masters."none.jpg": there is no such file' in done.stderr


def test_json_is_all_there_is_on_standard_output(site: Path, sarvel: Run) -> None:
    document = json.loads(sarvel("build", "--json", "--quiet").stdout)
    assert set(document) == {
        "sarvel",
        "pictures",
        "pages_fetch",
        "rendered",
        "pages",
        "faults",
        "warnings",
        "notes",
        "findings",
    }
    (gull, seal) = document["pictures"]
    assert (gull["slot"], gull["master"], seal["slot"]) == ("banner", "gull.jpg", "badge")
    for device, fetched in gull["fetched"].items():
        file = site / "public" / "pictures" / fetched["file"]
        assert file.stat().st_size == fetched["bytes"] and "@" in device
        assert fetched["saving"] == pytest.approx(1 - fetched["bytes"] / gull["master_bytes"], abs=1e-4)


def test_a_lost_subject_is_told_and_with_strict_an_error(site: Path, sarvel: Run) -> None:
    (site / "sarvel.toml").write_text(PLAN.replace("[0.2, 0.2, 0.4, 0.4]", "[0.2, 0, 0.4, 1]"))
    done = sarvel("render")
    # 2:1 of 900×600 is 450 px high: a quarter is lost.
    assert (
        done.returncode == 0
        and "sarvel.toml: slots.banner: gull.jpg: crop desktop: 25% of the subject is lost" in done.stderr
    )
    assert sarvel("render", "--strict").returncode == 1


@pytest.mark.usefixtures("site")
def test_quiet_says_only_what_is_wrong_and_verbose_says_each_step(sarvel: Run) -> None:
    verbose = sarvel("build", "--verbose")
    assert "seal.png: 3 files made" in verbose.stderr and "pages/index.html: written" in verbose.stderr
    quiet = sarvel("build", "--quiet")
    assert (quiet.returncode, quiet.stdout, quiet.stderr) == (0, "", "")


def test_an_interrupted_render_leaves_no_half_file(site: Path, sarvel: Run) -> None:
    big = Image.effect_noise((3000, 2000), 80).convert("RGB")
    for i in range(4):
        big.save(site / "masters" / f"n{i}.jpg")
    tags = "".join(f'<img data-sarvel="banner" src="../masters/n{i}.jpg" alt="">\n' for i in range(4))
    (site / "pages" / "index.html").write_text(tags)
    program = Path(sys.executable).parent / "sarvel"
    process = subprocess.Popen([program, "render"], cwd=site, stderr=subprocess.PIPE, text=True, start_new_session=True)
    folder = site / "public" / "pictures"
    while process.poll() is None and not (folder.is_dir() and any(folder.glob("*.webp"))):
        time.sleep(0.02)
    os.killpg(process.pid, signal.SIGINT)
    _, stderr = process.communicate(timeout=20)
    assert (process.returncode, stderr) == (130, "interrupted; finished work is kept\n")
    assert not list(folder.glob(".*"))
    kept = pictures(site)
    again = json.loads(sarvel("render", "--json").stdout)
    after = pictures(site)
    assert again["rendered"]["kept"] == len(kept)
    # Noise is smaller as JPEG: what was made of WebP is taken out in the end, all else stays.
    assert {item for item in kept.items() if item[0] in after} <= after.items() and any(
        n.endswith(".jpg") for n in after
    )


def test_version_and_module(site: Path) -> None:
    done = subprocess.run(
        [sys.executable, "-m", "sarvel", "--version"], cwd=site, capture_output=True, text=True, check=True
    )
    assert done.stdout.startswith("sarvel 0.")
