"""The press through the installed program: nothing twice, nothing half, nothing of others."""

import json
import os
import random
import re
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from tests.conftest import PAGE, PLAN, Run, run_sarvel


def files(site: Path) -> dict[str, bytes]:
    folder = site / "public" / "pictures"
    return {file.name: file.read_bytes() for file in folder.iterdir()} if folder.is_dir() else {}


def rendered(sarvel: Run, *options: str) -> dict[str, list[str]]:
    done = sarvel("render", "--json", *options)
    assert done.returncode == 0, done.stderr
    result: dict[str, list[str]] = json.loads(done.stdout)["rendered"]
    return result


def test_what_changes_no_pixel_renders_nothing(site: Path, sarvel: Run) -> None:
    rendered(sarvel)
    before = files(site)
    os.utime(site / "masters" / "gull.jpg")
    (site / "sarvel.toml").write_text(
        PLAN.replace('alt = "A gull"', 'alt = "A large gull"').replace('loading = "eager"', "")
    )
    assert rendered(sarvel)["made"] == [] and files(site) == before


def test_a_changed_number_renders_its_format(site: Path, sarvel: Run) -> None:
    rendered(sarvel)
    (site / "sarvel.toml").write_text(PLAN.replace("webp = 20", "webp = 25"))
    made = rendered(sarvel)["made"]
    assert made and all(name.endswith(".webp") for name in made)


def test_a_renamed_master_is_copied(site: Path, sarvel: Run) -> None:
    rendered(sarvel)
    before = files(site)
    (site / "masters" / "gull.jpg").rename(site / "masters" / "tern.jpg")
    (site / "pages" / "index.html").write_text(PAGE.replace("gull.jpg", "tern.jpg"))
    (site / "sarvel.toml").write_text(PLAN.replace("gull.jpg", "tern.jpg"))
    predicted = json.loads(sarvel("render", "--dry-run", "--json").stdout)
    assert predicted["to_make"] == {} and len(predicted["to_copy"]) == sum(name.startswith("gull") for name in before)
    assert sorted(rendered(sarvel)["made"]) == sorted(predicted["to_copy"])
    after = files(site)
    assert {name: after[name] for name in before} == before
    assert {name.replace("gull", "tern"): content for name, content in before.items()}.items() <= after.items()


def test_prune_takes_only_what_is_ours_and_not_wanted(site: Path, sarvel: Run) -> None:
    rendered(sarvel)
    (site / "public" / "pictures" / "theirs.webp").write_bytes(b"not ours")
    before = files(site)
    (site / "sarvel.toml").write_text(PLAN.replace('desktop = "2:1"', 'desktop = "3:1"'))
    assert rendered(sarvel)["pruned"] == [], "only if asked"
    (site / "masters" / "seal.png").rename(site / "masters" / "away.png")
    done = sarvel("render", "--prune")
    assert (
        "nothing pruned, since some masters or pages could not be read" in done.stderr
        and before.items() <= files(site).items()
    )
    (site / "masters" / "away.png").rename(site / "masters" / "seal.png")
    done = sarvel("render", "--prune", "--only", "badge")
    assert "nothing pruned, since --only looks at a part of the plan" in done.stderr
    pruned = rendered(sarvel, "--prune")["pruned"]
    assert pruned == sorted(name for name in before if "-banner-desktop-" in name)
    assert files(site)["theirs.webp"] == b"not ours"


def test_only_and_force(site: Path, sarvel: Run) -> None:
    assert all(name.startswith("seal-badge") for name in rendered(sarvel, "--only", "badge")["made"])
    assert all(name.startswith("gull") for name in rendered(sarvel, "--only", "g*.jpg", "--only", "nothing")["made"])
    before = files(site)
    assert rendered(sarvel)["made"] == []
    assert sorted(rendered(sarvel, "--force", "--only", "seal.png")["made"]) == sorted(
        n for n in before if n.startswith("seal")
    )
    assert files(site) == before
    done = sarvel("render", "--only", "card")
    assert (done.returncode, done.stderr) == (
        2,
        "--only card: no slot and no master of the pages has this name; known here: banner, gull.jpg, badge, seal.png\n",
    )


def test_dry_run_says_what_and_how_long_and_makes_nothing(site: Path, sarvel: Run) -> None:
    first = sarvel("render", "--dry-run")
    assert "files to make, 0 are there already; about " in first.stdout and "gull.jpg: " in first.stdout
    assert not (site / "public").exists() and not (site / "sarvel.ledger").exists()
    made = rendered(sarvel)["made"]
    shutil.rmtree(site / "public")
    assert "s, going by an earlier run\n" in sarvel("render", "--dry-run").stdout
    again = json.loads(sarvel("render", "--dry-run", "--json").stdout)
    assert sorted(name for names in again["to_make"].values() for name in names) == made and again["seconds"] > 0


def test_masters_that_are_not_touched_are_not_read(site: Path, sarvel: Run) -> None:
    os.utime(site / "masters" / "gull.jpg", (1e9, 1e9))
    rendered(sarvel)
    stat = (site / "masters" / "gull.jpg").stat()
    (site / "masters" / "gull.jpg").write_bytes(bytes(stat.st_size))  # not an image any more, and nobody looks
    os.utime(site / "masters" / "gull.jpg", (1e9, 1e9))
    assert rendered(sarvel)["made"] == []
    os.utime(site / "masters" / "gull.jpg", (1e9, 1e9 + 1))
    assert "gull.jpg: is not an image that can be read" in sarvel("render").stderr


@pytest.fixture
def settled_site(site: Path, sarvel: Run) -> Path:
    """A site whose files are old, rendered, and looked at once more, so that the short way is open."""
    rendered(sarvel)
    age(site)
    assert rendered(sarvel)["made"] == []
    return site


def age(site: Path) -> None:
    """As if nothing but the ledger had been touched for long; folders first hold new files, then grow old."""
    for path in (
        site / "sarvel.toml",
        site / "masters",
        site / "pages",
        *(site / "masters").iterdir(),
        *(site / "pages").iterdir(),
    ):
        os.utime(path, (1e9, 1e9))


def heavy(site: Path, *options: str, command: str = "render") -> bool:
    """Whether a run loads what is slow to load, and only work needs."""
    code = "import sys, sarvel.cli.main as m; m.main(sys.argv[1:]); print('sarvel.pipeline.render' in sys.modules, file=sys.stderr)"
    done = subprocess.run(
        [sys.executable, "-c", code, command, *options], cwd=site, capture_output=True, text=True, check=True
    )
    return done.stderr.splitlines()[-1] == "True"


def test_nothing_to_do_is_answered_at_once(settled_site: Path, sarvel: Run) -> None:
    long = sarvel("render", "--only", "*")
    short = sarvel("render")
    assert (short.stdout, short.stderr, short.returncode) == (long.stdout, long.stderr, 0)
    assert (
        json.loads(sarvel("render", "--json").stdout).keys()
        == json.loads(sarvel("render", "--json", "--only", "*").stdout).keys()
    )
    assert not heavy(settled_site) and heavy(settled_site, "--force") and heavy(settled_site, "--prune")


def test_a_build_with_nothing_to_do_tells_its_findings_again(site: Path, sarvel: Run) -> None:
    page = site / "pages" / "index.html"
    page.write_text(page.read_text() + '<img src="../masters/gull.jpg" alt="A gull" width="2" loading="lazzy">')
    assert sarvel("build").returncode == 0
    for file in (site / "public" / "pictures").iterdir():
        os.utime(file, (1e9, 1e9))
    age(site)
    sarvel("build")  # the folders are as old as the files from here on
    for options in ((), ("--quiet",), ("--strict",), ("--json",)):
        long, short = sarvel("build", "--only", "*", *options), sarvel("build", *options)
        assert (short.stdout, short.stderr, short.returncode) == (long.stdout, long.stderr, long.returncode)
    assert "value-unknown" in sarvel("build").stdout
    assert not heavy(site, command="build") and heavy(site, "--only", "*", command="build")


@pytest.mark.parametrize("change", ["plan", "page", "new page", "master", "file gone", "ledger gone", "ledger damaged"])
def test_whatever_changes_is_seen(settled_site: Path, sarvel: Run, change: str) -> None:
    site, before = settled_site, files(settled_site)
    match change:
        case "plan":
            (site / "sarvel.toml").write_text(PLAN.replace('"40px"', '"30px"'))
        case "page":
            (site / "pages" / "index.html").write_text(PAGE.replace("data-sarvel='badge'", "data-sarvel='banner'"))
        case "new page":
            (site / "pages" / "more.html").write_text('<img data-sarvel="banner" src="../masters/seal.png" alt="">')
        case "master":
            Image.new("RGB", (200, 200), (9, 80, 9)).save(site / "masters" / "seal.png")
        case "file gone":
            (site / "public" / "pictures" / sorted(before)[0]).unlink()
        case "ledger gone":
            (site / "sarvel.ledger").unlink()
        case "ledger damaged":
            (site / "sarvel.ledger").write_bytes(b"SQLite format 3" + bytes(500))
    done = json.loads(sarvel("render", "--json").stdout)["rendered"]
    assert bool(done["made"]) == (not change.startswith("ledger"))
    assert before.keys() <= files(site).keys()


def test_another_slot_that_crops_alike_is_no_second_encode(site: Path, sarvel: Run) -> None:
    rendered(sarvel)
    (site / "sarvel.toml").write_text(PLAN.replace("[slots.badge]", '[slots.crest]\nsizes = "40px"\n[slots.badge]'))
    (site / "pages" / "index.html").write_text(PAGE.replace("data-sarvel='badge'", "data-sarvel='crest'"))
    predicted = json.loads(sarvel("render", "--dry-run", "--json").stdout)
    assert predicted["to_make"] == {} and all(
        "badge" in first and "crest" in name for name, first in predicted["to_copy"].items()
    )


def test_same_bytes_whatever_is_there_already(site: Path, sarvel: Run) -> None:
    """Files are taken away at random; those made again are the same, whichever others are made beside them."""
    rendered(sarvel)
    before = files(site)
    chance = random.Random(3)
    for _ in range(3):
        for name in chance.sample(sorted(before), len(before) // 2):
            (site / "public" / "pictures" / name).unlink()
        rendered(sarvel)
        assert files(site) == before


def test_same_bytes_in_another_folder_and_on_more_workers(site: Path, tmp_path: Path, sarvel: Run) -> None:
    other = Path(shutil.copytree(site, tmp_path / "elsewhere" / "deeper"))
    rendered(sarvel, "--workers", "1")
    assert run_sarvel("render", "--workers", "4", cwd=other).returncode == 0
    assert files(other) == files(site)


def test_a_full_disk_is_one_clear_message(site: Path) -> None:
    """A limit on the size of files stands for it, above what SQLite needs to begin: writing fails half-way, as it does there."""
    code = (
        "import resource, signal, sys; signal.signal(signal.SIGXFSZ, signal.SIG_IGN); "
        "resource.setrlimit(resource.RLIMIT_FSIZE, (33000, 33000)); import sarvel.cli.main as m; sys.exit(m.main(sys.argv[1:]))"
    )
    done = subprocess.run(
        [sys.executable, "-c", code, "render", "--workers", "1"], cwd=site, capture_output=True, text=True, check=False
    )
    assert (
        done.returncode == 2
        and "cannot be written (File too large); check its permissions, and the disk that it is on" in done.stderr
    )
    assert len(done.stderr.splitlines()) == 1 and not any(name.startswith(".") for name in files(site))
    assert run_sarvel("render", cwd=site).returncode == 0


def test_killed_at_any_moment_the_next_run_completes(site: Path, tmp_path: Path) -> None:
    for i in range(2):
        noise = np.random.default_rng(i).integers(0, 256, (60, 90, 3), np.uint8).repeat(12, 0).repeat(12, 1)
        Image.fromarray(noise).save(site / "masters" / f"n{i}.png")
    tags = "".join(f'<img data-sarvel="banner" src="../masters/n{i}.png" alt="">\n' for i in range(2))
    (site / "pages" / "index.html").write_text(tags)
    undisturbed = tmp_path / "undisturbed"
    shutil.copytree(site, undisturbed)
    started = time.monotonic()
    assert run_sarvel("render", cwd=undisturbed).returncode == 0
    took = time.monotonic() - started
    wanted = files(undisturbed)
    program = Path(sys.executable).parent / "sarvel"
    chance = random.Random(1)
    for _ in range(5):
        process = subprocess.Popen(
            [program, "render"], cwd=site, stderr=subprocess.DEVNULL, stdout=subprocess.DEVNULL, start_new_session=True
        )
        time.sleep(chance.uniform(0.2, took))
        os.killpg(process.pid, signal.SIGKILL)
        process.wait()
        there = {name: content for name, content in files(site).items() if not name.startswith(".")}
        # What does not pay, or is undercut by a wider file, is there until all are made.
        assert all(wanted.get(name, content) == content for name, content in there.items())
    assert run_sarvel("render", cwd=site).returncode == 0
    assert files(site) == wanted, "and nothing half is left lying about"


@pytest.mark.parametrize("quality", ["{ jpeg = 95, webp = 95 }", ""], ids=["by hand", "searched"])
def test_no_file_is_heavier_than_its_master(site: Path, sarvel: Run, quality: str) -> None:
    plan = re.sub(r"quality = .*", f"quality = {quality}" if quality else "", PLAN)
    (site / "sarvel.toml").write_text(plan.replace("widths = 2", "widths = 2\nwidest = 700"))
    with Image.open(site / "masters" / "gull.jpg") as image:
        image.save(site / "masters" / "gull.jpg", quality=4)
    most = (site / "masters" / "gull.jpg").stat().st_size
    done = sarvel("build", "--json")
    weights = [file.stat().st_size for file in (site / "public" / "pictures").glob("gull-banner*")]
    assert done.returncode in (0, 1) and weights and max(weights) <= most


def test_damaged_masters_stop_no_others(site: Path, sarvel: Run) -> None:
    chance = random.Random(2)
    whole = {
        ending: (site / "masters" / name).read_bytes() for ending, name in (("jpg", "gull.jpg"), ("png", "seal.png"))
    }
    tags = PAGE
    for i in range(24):
        ending = ("jpg", "png")[i % 2]
        content = bytearray(whole[ending])
        if i % 3 == 0:
            content = content[: chance.randrange(len(content))]
        else:
            for _ in range(chance.choice((1, 10, 200))):
                content[chance.randrange(len(content))] = chance.randrange(256)
        (site / "masters" / f"m{i}.{ending}").write_bytes(content)
        tags += f'<img data-sarvel="badge" src="../masters/m{i}.{ending}" alt="">\n'
    (site / "pages" / "index.html").write_text(tags)
    done = sarvel("render", "--workers", "2")
    assert done.returncode in (0, 1) and "Traceback" not in done.stderr
    damaged = {
        line.split("m", 1)[1].split(".")[0] for line in done.stderr.splitlines() if ": is " in line and "/m" not in line
    }
    assert any(name.startswith("gull-banner") for name in files(site)) and any(
        name.startswith("seal") for name in files(site)
    )
    assert len(damaged) >= 1


def test_a_name_of_ten_digits_is_no_digest(site: Path, sarvel: Run) -> None:
    """Nothing is read out of file names: what stands there is known by its fingerprint."""
    (site / "masters" / "gull.jpg").rename(site / "masters" / "1234567890.jpg")
    plan = PLAN.replace("gull.jpg", "1234567890.jpg").replace(
        "widths = 2", 'widths = 5\nname = "{digest}-{stem}-{width}.{ext}"'
    )
    (site / "sarvel.toml").write_text(plan)
    (site / "pages" / "index.html").write_text(PAGE.replace("gull.jpg", "1234567890.jpg"))
    for _ in range(2):  # once made from nothing, once with others there
        rendered(sarvel)
        widths = {}
        for name in (one for one in files(site) if "1234567890" in one):
            with Image.open(site / "public" / "pictures" / name) as image:
                widths[name] = image.width
        assert len(widths) >= 6 and all(f"-{width}." in name for name, width in widths.items())
        for name in list(widths)[::2]:
            (site / "public" / "pictures" / name).unlink()


def test_a_build_with_nothing_to_do_says_the_same_and_loads_nothing_slow(site: Path, sarvel: Run) -> None:
    for page in site.rglob("*.*"):
        os.utime(page, (1e9, 1e9))
    for folder in (site, site / "pages", site / "masters"):
        os.utime(folder, (1e9, 1e9))
    plan = PLAN.replace('sizes = { phone = "100vw", desktop = "50vw" }', 'sizes = "100px"')
    (site / "sarvel.toml").write_text(plan.replace("[site]", '[site]\nwoven = "public"'))
    (site / "pages" / "index.html").write_text('<img data-sarvel="banner" src="masters/gull.jpg" alt="A gull">')
    for file in ("sarvel.toml", "pages/index.html"):
        os.utime(site / file, (1e9, 1e9))
    first = sarvel("build")
    assert first.returncode == 0, first.stderr
    code = (
        "import sys, sarvel.cli.main as m\ncode = m.main(['build'])\nprint(code, sorted(sys.modules), file=sys.stderr)"
    )

    def again() -> tuple[str, str]:
        done = subprocess.run([sys.executable, "-c", code], cwd=site, capture_output=True, text=True, check=True)
        return done.stdout, done.stderr

    said, loaded = again()
    slow = ("PIL", "numpy", "pydantic", "tinycss2")
    assert not [name for name in slow if f"'{name}'" in loaded] and loaded.splitlines()[-1].startswith("0 ")
    made = int(first.stdout.split(" files made")[0].split()[-1])
    assert f"0 files made, {made} were there already" in said and "0 files written" in said
    assert said.split("\n")[:6] == first.stdout.split("\n")[:6], "the table is the same"
    for change in ("pages/index.html", "public/index.html", "masters/gull.jpg"):
        before = (site / change).read_bytes()
        (site / change).write_bytes(before.replace(b"A gull", b"a gull") if change.endswith("html") else before)
        assert "'pydantic'" in again()[1], change  # the long way, which mends what was changed
        (site / change).write_bytes(before)
        os.utime(site / change, (1e9, 1e9))
        again()
