"""`sarvel plan`, on the demo's own plan and on small ones."""

import json
import re
import shutil
import sqlite3
import subprocess
import sys
from pathlib import Path

import pytest
from PIL import Image

from sarvel.core.amounts import weight
from sarvel.demo import SITE
from sarvel.pipeline.page_sums import DESKTOP, PHONE
from tests.conftest import PLAN, Run, run_sarvel


@pytest.fixture(scope="module")
def demo_at_five_rungs(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo site with nothing made, every slot at five rungs."""
    folder = Path(shutil.copytree(SITE, tmp_path_factory.mktemp("plan") / "site"))
    plan = folder / "sarvel.toml"
    plan.write_text(re.sub(r"(?m)^(rungs|excess|widths) .*$", "", plan.read_text()))
    return folder


def test_excess_is_small_and_at_most_half_of_an_even_spread(demo_at_five_rungs: Path) -> None:
    document = json.loads(run_sarvel("plan", "--json", cwd=demo_at_five_rungs).stdout)
    crops = [
        crop
        for slot in document["slots"]
        if slot["use"] == "picture"
        for picture in slot["pictures"]
        for crop in picture["crops"]
    ]
    assert len(crops) > 10
    for crop in crops:
        assert len(crop["widths"]) <= 5
        assert crop["excess"] <= 0.1
        assert crop["excess"] <= crop["even_spread"] / 2 or crop["excess"] < 0.002
        assert crop["worst_soft"] <= 0.05 or crop["worst_soft_why"] in ("widest", "master")
        assert crop["worst_waste"] <= 1.75 or crop["widths_wanted"] > 5
        assert crop["excess"] <= crop["one_for_all"]


def test_nothing_is_read_but_headers_and_nothing_written(site: Path, sarvel: Run) -> None:
    """A master cut off behind its header is good enough for the arithmetic."""
    master = site / "masters" / "gull.jpg"
    master.write_bytes(master.read_bytes()[:2000])
    done = sarvel("plan")
    assert done.returncode == 0 and "gull.jpg" in done.stdout
    assert not (site / "public").exists()


@pytest.mark.parametrize("columns", ["80", "120"])
@pytest.mark.parametrize(("options", "ends"), [((), ("soft", "B")), (("--why",), ("%", "×"))])
def test_no_row_is_wrapped(
    options: tuple[str, ...], ends: tuple[str, ...], site: Path, columns: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("COLUMNS", columns)
    done = run_sarvel("plan", *options, cwd=site)
    lines = done.stdout.splitlines()
    assert max(map(len, lines)) <= int(columns)
    (gull,) = (line for line in lines if line.lstrip().startswith("gull.jpg"))
    assert "desktop" in gull and gull.rstrip().endswith(ends)
    assert options or "Not shown" not in done.stdout  # nothing is dropped


def test_bytes_of_a_phone_and_a_desktop_are_those_of_the_files(rendered: Path, sarvel: Run) -> None:
    assert sarvel("weave").returncode == 0 and rendered.exists()
    devices = [word for device in (PHONE, DESKTOP) for word in ("--device", str(device))]
    document = json.loads(sarvel("pick", "pages/index.html", "--json", *devices).stdout)
    phone, desktop = (weight(one["bytes"]) for one in document["images"][0]["devices"])
    rows = [line for line in sarvel("plan", "banner").stdout.splitlines() if line.rstrip().endswith(("soft", "B"))]
    assert [desktop in rows[0], phone in rows[1]] == [True, True], rows


@pytest.mark.usefixtures("site")
def test_soft_images_are_named_with_their_devices(sarvel: Run) -> None:
    done = sarvel("plan", "banner")
    note = next(line for line in done.stderr.splitlines() if "crop phone" in line)
    assert (
        "the master gives 600 px across, the audience needs" in note
        and "360x780@3" in note
        and "of who meets this crop" in note
    )
    crop = json.loads(sarvel("plan", "banner", "--json").stdout)["slots"][0]["pictures"][0]["crops"][1]
    assert crop["widths"][-1] == 600 and "390x844@3" in crop["soft"] and 0 < crop["soft_share"] <= 1


@pytest.mark.usefixtures("site")
def test_only_some_slots_and_unknown_ones(sarvel: Run) -> None:
    assert [slot["slot"] for slot in json.loads(sarvel("plan", "badge", "--json").stdout)["slots"]] == ["badge"]
    done = sarvel("plan", "bagde")
    assert done.returncode == 2 and done.stderr == "sarvel.toml: no slot 'bagde'; did you mean 'badge'?\n"


def test_an_audience_of_ones_own(site: Path, sarvel: Run) -> None:
    """A device has its file; the widest file serves whom nobody listed."""
    (site / "audience.csv").write_text("width,height,density,share\n400,800,1,1\n1000-1100,700,1,3\n")
    (site / "sarvel.toml").write_text(PLAN.replace("[site]", '[site]\naudience = "audience.csv"'))
    crops = json.loads(sarvel("plan", "banner", "--json").stdout)["slots"][0]["pictures"][0]["crops"]
    assert [crop["crop"] for crop in crops] == ["desktop", "phone"]
    assert 550 in crops[0]["widths"] and 400 in crops[1]["widths"]
    assert all(crop["worst_soft"] <= 0.05 or crop["worst_soft_why"] == "master" for crop in crops)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (
            "width,height,density\n1,1,1\n",
            "audience.csv:1: no column share; begin with the line width,height,density,share,label",
        ),
        ("width,height,density,share\n", "audience.csv: no device in it; write a line for each"),
        ("width,height,density,share\n1,1,1,1\n1,x,1,1\n", "audience.csv:3: height: got 'x'; write a number above 0"),
        ("width,height,density,share\n1,1,1\n", "audience.csv:2: share: got ''; write a number above 0"),
    ],
)
def test_faulty_audiences(site: Path, sarvel: Run, text: str, words: str) -> None:
    (site / "audience.csv").write_text(text)
    (site / "sarvel.toml").write_text(PLAN.replace("[site]", '[site]\naudience = "audience.csv"'))
    done = sarvel("plan")
    assert done.returncode == 2 and done.stderr.startswith(f"sarvel.toml:2: site.audience: {words}")


def test_brackets_in_names_are_letters(site: Path, sarvel: Run) -> None:
    (site / "masters" / "gull.jpg").rename(site / "masters" / "boat[draft].jpg")
    (site / "sarvel.toml").write_text(PLAN.replace("gull.jpg", "boat[draft].jpg"))
    page = site / "pages" / "index.html"
    page.write_text(page.read_text().replace("gull.jpg", "boat[draft].jpg"))
    for command in ("plan", "build", "survey"):
        assert "boat[draft].jpg" in sarvel(command).stdout, command


def test_a_subject_is_searched_for_once(site: Path, sarvel: Run) -> None:
    """What was found is remembered by whatever command found it; a damaged master shows whether it is decoded again."""
    (site / "sarvel.toml").write_text(PLAN.replace("subject = [0.2, 0.2, 0.4, 0.4]", 'subject = "find"'))
    first = sarvel("plan")
    assert "no subject stands out" in first.stderr and (site / "sarvel.ledger").exists()
    with sqlite3.connect(site / "sarvel.ledger") as database:
        found = database.execute("SELECT key, finding FROM findings WHERE key LIKE 'subject %'").fetchall()
    database.close()
    assert len(found) == 1
    code = (
        "import sys, sarvel.cli.main as m, sarvel.core.pixels.subject as s\n"
        "s.find_subject = lambda _: sys.exit('searched again')\n"
        "sys.exit(m.main([sys.argv[1]]))"
    )
    for command in ("plan", "render"):
        done = subprocess.run(
            [sys.executable, "-c", code, command], cwd=site, capture_output=True, text=True, check=False
        )
        assert "searched again" not in done.stderr and "no subject stands out" in done.stderr, command


def test_drawings_and_moving_pictures_need_nothing(site: Path, sarvel: Run) -> None:
    (site / "masters" / "mark.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>')
    frames = [Image.new("RGB", (40, 40), color) for color in ("red", "blue")]
    for name in ("turn.gif", "turn.webp", "turn.png", "turn.avif"):
        frames[0].save(site / "masters" / name, save_all=True, append_images=frames[1:], duration=90)
    page = site / "pages" / "index.html"
    images = "".join(
        f'<img data-sarvel="badge" src="../masters/{name}" alt="x">'
        for name in ("mark.svg", "turn.gif", "turn.webp", "turn.png", "turn.avif")
    )
    page.write_text(f'<!doctype html><meta name="viewport" content="width=device-width">{images}')
    before = page.read_bytes()
    done = sarvel("plan", cwd=site)
    assert done.returncode == 0 and "nothing to make for mark.svg: SVG is sharp at any width" in done.stdout
    assert json.loads(sarvel("plan", "--json", cwd=site).stdout)["drawings"] == ["mark.svg"]
    built = sarvel("build", cwd=site)
    assert (
        "0 files made" in built.stdout
        and "is animated and stays as it is" in built.stderr
        and page.read_bytes() == before
    )
