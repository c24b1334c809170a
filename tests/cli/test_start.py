"""`sarvel start` through the installed program, on sites that know nothing of Sarvel: the draft builds, and mends what it can."""

import json
import shutil
import tomllib
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from sarvel.demo import SITE
from tests.conftest import run_sarvel

HEAD = '<!doctype html><head><meta name="viewport" content="width=device-width"><link rel="stylesheet" href="{}site.css"></head>\n'
CSS = """\
img { max-width: 100%; height: auto }
@media (min-width: 40em) { p { margin: 0 } }
@media (max-width: 1023.98px) { p { margin: 1px } }
@media (max-width: 639px) { p { margin: 2px } }
@media print, (1400px <= width) { p { margin: 3px } }
"""
LISTED = (
    '<img src="{0}images/{1}-300.jpg" srcset="{0}images/{1}-300.jpg 300w, {0}images/{1}-900.jpg 900w"'
    ' sizes="(min-width: 640px) 50vw, 100vw" alt="{2}">'
)


def picture(file: Path, width: int, height: int) -> None:
    """A picture with something in it, so that every format pays."""
    file.parent.mkdir(parents=True, exist_ok=True)
    waves = np.sin(np.arange(width) / 40)[None, :] * np.cos(np.arange(height) / 30)[:, None]
    Image.fromarray(((waves[..., None] + [1, 1.1, 0.9]) * 80).clip(0, 255).astype(np.uint8)).save(file, quality=90)


def one_huge(site: Path) -> None:
    """One huge file everywhere, and nothing said of it."""
    for name in ("shore", "bay"):
        picture(site / "img" / f"{name}.jpg", 1500, 1000)
    (site / "site.css").write_text(CSS)
    (site / "index.html").write_text(
        HEAD.format("") + '<img src="img/shore.jpg"><p><img src="img/bay.jpg" class="inset" alt="The bay"></p>'
    )
    (site / "rooms.html").write_text(
        HEAD.format("")
        + '<img src="img/shore.jpg" alt="The shore"><img src="img/bay.jpg" width="500" height="333" alt="The bay">'
    )


def by_hand(site: Path) -> None:
    """Lists written by hand, with a lie in one and a dead source in another; pages in two folders."""
    for name, width in (("gull", 300), ("gull", 900), ("seal", 300), ("seal", 900)):
        picture(site / "images" / f"{name}-{width}.jpg", width, width * 2 // 3)
    (site / "site.css").write_text(CSS)
    (site / "blog").mkdir()
    (site / "index.html").write_text(
        HEAD.format("")
        + LISTED.format("", "gull", "A gull").replace("900w", "1200w")
        + LISTED.format("", "seal", "A seal")
    )
    dead = '<source media="(min-width: 1px)" srcset="../images/seal-300.jpg"><source media="(min-width: 640px)" srcset="../images/seal-900.jpg">'
    (site / "blog" / "one.html").write_text(
        HEAD.format("../") + LISTED.format("../", "seal", "A seal")
        + f'<picture>{dead}<img src="../images/gull-900.jpg" alt="A gull" width="900" height="600"></picture>'
    )  # fmt: skip


def demo_site(site: Path) -> None:
    """The demo without its plan."""
    for name in ("pages", "masters"):
        shutil.copytree(SITE / name, site / name)
    for file in (site / "masters").iterdir():
        with Image.open(file) as image:
            image.thumbnail((1200, 1200))
            image.save(file)


# The site, its folder of masters, what is left for a person, and the rules that may still be broken then.
CASES = [
    (one_huge, "img", ["1 image without alt; say in sarvel.toml what each shows: shore.jpg"], set()),
    (by_hand, "images", ["1 image not taken: is in a picture by hand, some of whose files cannot be masters; mend it, or remove the picture around it: blog/one.html:2:294"],
     {"source-never-chosen", "no-modern-format"}),
    (demo_site, "masters", ["3 images not taken: is for sharing; write the address of the site as url, and a slot with use = ",
                            "5 images without alt; say in sarvel.toml what each shows: ",
                            "5 slots: nothing tells how wide images are shown; write it as sizes, or run sarvel measure --save: "], {"image-soft", "share-image-address"}),
]  # fmt: skip


@pytest.mark.parametrize(("make", "masters", "left", "rules"), CASES, ids=["one huge", "by hand", "demo"])
def test_a_draft_builds_and_what_is_left_needs_a_person(
    make: Callable[[Path], object], masters: str, left: list[str], rules: set[str], tmp_path: Path
) -> None:
    make(tmp_path)
    before = {file: file.read_bytes() for file in tmp_path.rglob("*") if file.is_file()}
    done = run_sarvel("start", cwd=tmp_path)
    assert done.returncode == 0
    told = sorted(done.stderr.splitlines())
    assert len(told) == len(left) and all(
        line.startswith(words) for line, words in zip(told, sorted(left), strict=True)
    )
    plan = tmp_path / "sarvel.toml"
    said = tomllib.loads(plan.read_text())
    assert said["site"]["masters"] == masters
    assert set(said["breakpoints"].values()) <= {0, 640, 1024, 1400} and len(said["breakpoints"]) > 2
    assert all(file.read_bytes() == content for file, content in before.items())  # nothing but the plan is written

    # What needs a person is done: words and widths are said. Quality by hand spares the tests the search for it.
    text = (
        plan.read_text()
        .replace('# alt = ""', 'alt = "In words"')
        .replace("[defaults]", "[defaults]\nquality = { avif = 40, webp = 60, jpeg = 90 }")
    )
    plan.write_text(text.replace('formats   = ["avif", "webp", "jpeg"]', 'formats = ["webp", "jpeg"]'))
    built = json.loads(run_sarvel("build", "--json", cwd=tmp_path).stdout)
    assert built["faults"] == [] and {one["rule"] for one in built["findings"]} == rules
    assert run_sarvel("weave", "--undo", cwd=tmp_path).returncode == 0
    assert all(file.read_bytes() == content for file, content in before.items())


def test_breakpoints_are_the_stylesheets_own_and_most_used_first(tmp_path: Path) -> None:
    one_huge(tmp_path)
    run_sarvel("start", cwd=tmp_path)
    text = (tmp_path / "sarvel.toml").read_text()
    assert tomllib.loads(text)["breakpoints"] == {"phone": 0, "tablet": 640, "desktop": 1024, "wide": 1400}
    assert "tablet = 640    # 2 media queries" in text and "wide = 1400    # 1 media query" in text


@pytest.mark.parametrize(
    ("prepare", "words"),
    [
        (lambda site: (site / "sarvel.toml").write_text("mine"), "sarvel.toml: is there already and stays as it is; rename it to have another drafted"),
        (lambda site: (site / "index.html").write_text("<p>"), "but no image can be woven: no page names one of them; name the folder of the site"),
    ],
)  # fmt: skip
def test_nothing_is_overwritten_and_nothing_drafted_from_nothing(
    prepare: Callable[[Path], object], words: str, tmp_path: Path
) -> None:
    prepare(tmp_path)
    done = run_sarvel("start", cwd=tmp_path)
    assert done.returncode == 2 and words in done.stderr
    assert not (tmp_path / "sarvel.toml").exists() or (tmp_path / "sarvel.toml").read_text() == "mine"
