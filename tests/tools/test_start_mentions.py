"""Links, posters, images for sharing and icons in drafts."""

import tomllib
from pathlib import Path

import pytest
from PIL import Image

from sarvel.pipeline.listener import Nobody
from sarvel.plan.draft import drafted
from sarvel.plan.read import plan_from
from sarvel.tools.start.draft import draft_of
from sarvel.tools.start.mentions import mentions_of
from sarvel.tools.start.ways import ground_of
from sarvel.tools.survey import survey

HEAD = '<link rel="canonical" href="https://x.example/p"><meta property="og:image" content="https://x.example/img/wide.png">'
BODY = '<a href="img/wide.png"><img src="img/wide.png" alt="A"></a><a href="img/small.png">x</a><video poster="img/small.png"></video>'
ICONS = '<link rel="icon" href="img/small.png"><link rel="apple-touch-icon" href="img/wide.png"><a href="img/gone.png">x</a>'


@pytest.fixture
def site(tmp_path: Path) -> Path:
    (tmp_path / "img").mkdir()
    for name, width in (("wide", 1800), ("small", 300)):
        Image.new("RGB", (width, 200), "#335577").save(tmp_path / "img" / f"{name}.png")
    return tmp_path


def test_slots_for_the_places_that_a_site_has(site: Path) -> None:
    (site / "index.html").write_text(HEAD + BODY + ICONS)
    draft = draft_of(survey([site], None, Nobody()), site, ground_of(site))
    assert [(one.use, len(one.places), one.sizes) for one in draft.mentions] == [
        ("link", 1, "1600px"), ("share", 1, ""), ("single", 1, "100vw"), ("icon", 1, "")
    ]  # fmt: skip
    plan = plan_from(tomllib.loads(drafted(draft)), site / "sarvel.toml", {})
    assert plan.url == "https://x.example" and {slot.use for slot in plan.slots.values()} == {
        "picture",
        "link",
        "share",
        "single",
        "icon",
    }
    assert [len(places) for why, places in draft.left.items() if "no file" in why or "not there" in why] == [1]


def test_an_image_for_sharing_needs_the_address_of_the_site(site: Path) -> None:
    (site / "index.html").write_text(
        '<meta property="og:image" content="img/wide.png"><img src="img/wide.png" alt="A">'
    )
    found, left, pages = survey([site], None, Nobody()), dict[str, list[str]](), set[Path]()
    assert mentions_of(found, site, pages, left, shares=False) == [] and not pages
    ((why, places),) = left.items()
    assert "write the address of the site as url" in why and len(places) == 1
    (mention,) = mentions_of(found, site, pages, left, shares=True)
    assert mention.use == "share" and pages == {site / "index.html"}
