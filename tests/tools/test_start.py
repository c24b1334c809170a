"""Drafts of plans from sites: what they take, what they leave and why."""

import tomllib
from collections.abc import Sequence
from pathlib import Path

import pytest
from PIL import Image

from sarvel.core.layout.alike import Measured
from sarvel.core.layout.bends import first_looks
from sarvel.core.survey.behaviour import Behaviour
from sarvel.errors import PlanError
from sarvel.pages.read.expression import UNTOLD, UNTOLD_CURE
from sarvel.pipeline.listener import Nobody
from sarvel.plan.draft import drafted
from sarvel.plan.read import plan_from
from sarvel.tools.start.draft import draft_of
from sarvel.tools.start.measured import Place
from sarvel.tools.start.running import ImageTag
from sarvel.tools.start.trial import unmet
from sarvel.tools.start.ways import ground_of
from sarvel.tools.survey import survey

PAGE = """<!doctype html><html><head><link rel="stylesheet" href="site.css"></head><body>
<img src="img/logo.svg" alt=""><img src="img/turning.gif" alt="x"><img src="data:image/png,x" alt="">
<a href="large/shore.jpg"><img src="img/shore.jpg" alt="The shore"></a>
<a href="large/bay.jpg"><img src="img/bay.jpg" alt="The bay"></a>
<figure><img src="img\\hut.jpg" alt="The hut"></figure><img src="{{ photo }}"><img src="img/gone.jpg" alt="">
<header class="section top" style="background: url(large/bay.jpg) center / cover"></header>
<p class="section" style="background: url(large/bay.jpg)"></p>
<picture><img src="img/hut.jpg" alt="The hut"></picture><img class="wide" src="img/hut.jpg" fetchpriority="high" alt="A">
</body></html>"""


@pytest.fixture
def found(tmp_path: Path) -> Path:
    for name, size in (("img/shore.jpg", (300, 200)), ("large/shore.jpg", (900, 600)), ("img/bay.jpg", (200, 200)),
                       ("large/bay.jpg", (900, 600)), ("img/hut.jpg", (400, 300))):  # fmt: skip
        (tmp_path / name).parent.mkdir(exist_ok=True)
        Image.new("RGB", size, "#335577").save(tmp_path / name)
    frames = [Image.new("RGB", (20, 20), color) for color in ("red", "blue")]
    frames[0].save(tmp_path / "img" / "turning.gif", save_all=True, append_images=frames[1:])
    (tmp_path / "img" / "logo.svg").write_text("<svg xmlns='http://www.w3.org/2000/svg'/>")
    (tmp_path / "site.css").write_text("img { max-width: 100% } figure > img { margin: 0 }")
    (tmp_path / "index.html").write_text(PAGE)
    return tmp_path


def test_a_draft(found: Path) -> None:
    draft = draft_of(survey([found], None, Nobody()), found, ground_of(found))
    groups = {
        group.name: ([one.src for one in group.images], group.layout.by_place, group.layout.urgent)
        for group in draft.groups
    }
    assert groups == {
        "picture": (["img\\hut.jpg"], "figure > img", False),
        "wide": (["img/hut.jpg"], "", True),
        "picture-more": (["img/shore.jpg", "img/bay.jpg"], "", False),
    }
    assert [(one.key, one.slot, one.master, one.ratio) for one in draft.larger] == [
        ("img/shore.jpg", "picture-more", "large/shore.jpg", ""),
        ("img/bay.jpg", "picture-more", "large/bay.jpg", "200:200"),
    ]
    assert [(one.selectors, one.froms) for one in draft.pictures] == [
        (["picture img[src='img/hut.jpg']"], {"img/hut.jpg": {}})
    ]
    assert {words: [place.removeprefix(str(found)) for place in places] for words, places in draft.left.items()} == {
        "is animated; a video is lighter, and stills can be woven": ["/index.html:2:32"],
        f"{UNTOLD}; {UNTOLD_CURE}": ["/index.html:5:55"],
        "its background has no background-size, so that another file would be shown at another size": [
            "/index.html:7:1"
        ],
        "its file is not there": ["/index.html:5:83 img/gone.jpg"],
    }

    assert draft.backgrounds and draft.backgrounds.selectors == [".top"] and draft.count == 6


def test_what_is_drafted_takes_its_images(found: Path) -> None:
    import tomllib

    draft = draft_of(survey([found], None, Nobody()), found, ground_of(found))
    plan = plan_from(tomllib.loads(drafted(draft)), found / "sarvel.toml", {})
    assert list(unmet(draft, plan)) == []
    picture = plan.slots["picture-more"]
    other = plan_from(tomllib.loads(drafted(draft).replace('["img"]', '["img.other"]')), found / "sarvel.toml", {})
    assert picture.selectors and len(list(unmet(draft, other))) == 2


def test_a_site_without_images(tmp_path: Path) -> None:
    (tmp_path / "index.html").write_text("<p>x")
    with pytest.raises(PlanError, match="1 page and 0 image files are here"):
        draft_of(survey([tmp_path], None, Nobody()), tmp_path, ground_of(tmp_path))


def test_of_many_pages_those_are_measured_that_are_not_alike(found: Path) -> None:
    """What was not looked at is taken to be shown as what has the same class and stands in the same."""
    for number in range(20):
        (found / f"p{number:02}.html").write_text('<div class="row"><img class="card" src="img/hut.jpg" alt="A"></div>')
    (found / "q.html").write_text('<p><img class="card" src="img/shore.jpg" alt="B"></p>')
    looked: list[str] = []

    def measures(places: Sequence[Place], larger: Sequence[Place], _tags: Sequence[ImageTag]) -> dict[Place, Behaviour]:
        looked.extend(file.name for file, _ in places)
        assert {file.name for file, _ in larger} == {"index.html"}
        widths = {file.name: 1.0 if file.name == "q.html" else 0.5 for file, _ in places}
        return {
            (file, start): Behaviour(Measured({v: widths[file.name] * v for v in first_looks()}, {}), {}, (0, 0))
            for file, start in places
        }

    draft = draft_of(survey([found], None, Nobody()), found, ground_of(found), measures)
    assert set(looked) == {"index.html", "p00.html", "p01.html", "p02.html", "q.html"}
    shown = [(group.seen.fitted.steps[0][1], len(group.images)) for group in draft.groups if group.seen]
    assert ("100vw", 1) in shown and ("50vw", 23) in shown  # and three of index.html
    text = drafted(draft)
    assert 'sizes = "50vw"    # measured in a browser, to 0.0 px' in text
    assert list(unmet(draft, plan_from(tomllib.loads(text), found / "sarvel.toml", {}))) == []
