"""Images that a page opens with are eager unless the plan says otherwise; the largest of them is urgent."""

import re
from pathlib import Path

import pytest

from sarvel.files.ledger import Ledger
from sarvel.pages.weave.opening import opening, share_of_screens
from sarvel.pipeline.site import read_site
from sarvel.plan.read import read_plan
from tests.conftest import PLAN, Run

BANNER = '<img data-sarvel="banner" src="../masters/gull.jpg">'
BADGE = '<img data-sarvel="badge" src="../masters/seal.png" alt="">'
WORDS = f"<p>{'word ' * 401}</p>"


@pytest.mark.parametrize(
    ("name", "text", "loading"),
    [
        ("a.html", f"<body><header>{BADGE}{BADGE}</header>{BANNER}{BANNER}", ["eager", "lazy", "eager", "lazy"]),
        ("a.html", f"<body>{BADGE}{WORDS}{BANNER}", ["lazy", "lazy"]),
        ("a.html", f"<body>{BADGE}<script>{WORDS}</script>{BANNER}", ["lazy", "eager"]),
        ("a.html", f"<body>{BADGE}{BANNER.replace('<img', '<img loading=lazy')}{BANNER}", ["lazy", "lazy", "lazy"]),
        ("part.html", f"<header>{BADGE}</header>{BANNER}", ["eager", "lazy"]),
        ("a.md", f"{BANNER}\n", ["lazy"]),
    ],
)
def test_which_images_are_eager(name: str, text: str, loading: list[str], rendered: Path, sarvel: Run) -> None:
    (rendered / "sarvel.toml").write_text(PLAN.replace('loading = "eager"\n', ""))
    (rendered / "pages" / "index.html").unlink()
    page = rendered / "pages" / name
    page.write_text(text)
    assert sarvel("build").returncode in (0, 1)
    woven = page.read_text()
    images = re.findall(r"<img[^>]*>", woven)
    assert [re.search(r'loading="?(\w+)', image)[1] for image in images] == loading  # type: ignore[index]
    assert woven.count("fetchpriority") == ("eager" in loading) and woven.count('"auto, ') == 0
    assert "0 files written" in sarvel("weave").stdout
    sarvel("weave", "--undo")
    assert page.read_text() == text


def test_the_share_of_two_screens_that_a_picture_fills(rendered: Path) -> None:
    """A square as wide as a phone, and half as wide as a desktop at 2:1; the plan says that it is eager."""
    with Ledger() as ledger:
        site = read_site(read_plan(rendered / "sarvel.toml"), ledger)
    (ask,) = opening(site.pages[0], site.edition)
    share = share_of_screens(site.edition.pictures[ask.slot, ask.key or ""])
    assert share == pytest.approx(390 * 390 / (390 * 844) + 720 * 360 / (1440 * 900), rel=0.01)
