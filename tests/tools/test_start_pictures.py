"""Pictures by hand in drafts: conditions become crops, and the files of sources their masters."""

import tomllib
from pathlib import Path

import pytest
from PIL import Image

from sarvel.pipeline.listener import Nobody
from sarvel.plan.draft import Draft, drafted
from sarvel.plan.read import plan_from
from sarvel.tools.start.draft import draft_of
from sarvel.tools.start.pictures import pictures_by_hand
from sarvel.tools.start.ways import ground_of
from sarvel.tools.survey import survey

DARK, WIDE = "(prefers-color-scheme: dark)", "(min-width: 900px)"


def picture(img: str, *sources: tuple[str, str], attributes: str = "") -> str:
    written = "".join(f'<source media="{media}" srcset="{name}.png">' for media, name in sources)
    return f'<picture{attributes}>{written}<img src="{img}.png" alt="x"></picture>'


@pytest.fixture
def site(tmp_path: Path) -> Path:
    for name, height in (("day", 30), ("night", 30), ("broad", 10), ("more", 20)):
        Image.new("RGB", (60, height)).save(tmp_path / f"{name}.png")
    return tmp_path


def draft(site: Path, body: str) -> Draft:
    (site / "index.html").write_text(body)
    return draft_of(survey([site], None, Nobody()), site, ground_of(site))


def test_its_conditions_become_crops(site: Path) -> None:
    found = draft(site, picture("day", (DARK, "night"), (WIDE, "broad"), attributes=' class="hero"'))
    plan = plan_from(tomllib.loads(drafted(found)), site / "sarvel.toml", {})
    slot = plan.slots["art"]
    assert [rule.media.css for rule in slot.crops] == [DARK, WIDE, ""] and [one.css for one in slot.selectors] == [
        "picture.hero img"
    ]
    crops = plan.masters["day.png"].crops
    assert {crop: override.master for (_, crop), override in crops.items()} == {"1": "night.png", "2": "broad.png"}
    assert found.count == 1 and not found.left


@pytest.mark.parametrize(
    ("body", "selectors"),
    [
        (picture("day", (DARK, "night")) + picture("more", (DARK, "broad")), [["picture img[src='day.png']", "picture img[src='more.png']"]]),
        (picture("day", (DARK, "night"), attributes=" class=a") + picture("more", (WIDE, "broad"), attributes=" class=a"),
         [["picture img[src='day.png']"], ["picture img[src='more.png']"]]),
        (picture("day", (DARK, "night"), attributes=" class=a") + picture("day", (DARK, "gone"), attributes=" class=a"), [["picture img[src='day.png']"]]),
        ('<picture><source type="image/png" srcset="day.png 60w, more.png 30w"><img class="b" src="day.png" alt="x"></picture>', [["picture img.b"]]),
    ],
)  # fmt: skip
def test_its_slot_takes_no_other_picture(body: str, selectors: list[list[str]], site: Path) -> None:
    assert [one.selectors for one in draft(site, body).pictures] == selectors


@pytest.mark.parametrize(
    "body",
    [
        picture("day", (DARK, "gone")),
        picture("day", ("{{ media }}", "night")),
        picture("day", ("(min-width: 1px)", "night"), (WIDE, "broad")),
        '<picture><source srcset="night.png"><img src="day.png" alt="x"><img src="more.png" alt="x"></picture>',
    ],
)
def test_what_a_plan_cannot_say_is_left(body: str, site: Path) -> None:
    found = draft(site, f'<img src="more.png" alt="x">{body}')
    assert not found.pictures and found.left


def test_two_pictures_of_one_file_must_agree(site: Path) -> None:
    found = draft(site, picture("day", (DARK, "night")) + picture("day", (DARK, "more")))
    assert [len(one.places) for one in found.pictures] == [1]
    assert list(found.left) == ["shows other files than another picture of the same file"]
    assert not list(pictures_by_hand(site, next(iter(survey([site], None, Nobody()).pages.values())), lambda _: None))
