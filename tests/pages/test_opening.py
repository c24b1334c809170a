"""Images that a page opens with are eager unless the plan says otherwise; the largest of them is urgent."""

import re
from pathlib import Path

import pytest

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
