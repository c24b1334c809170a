"""Parts of reading a plan: audience files, odd values, layouts, messages, drafts."""

import tomllib
from pathlib import Path
from typing import get_args

import pytest

from sarvel.core.css.device import Device
from sarvel.core.html.dialect import DIALECTS
from sarvel.core.html.document import read_document
from sarvel.core.model import DialectName
from sarvel.core.survey.groups import Group, Layout, LocalImage
from sarvel.errors import PlanError
from sarvel.plan import schema
from sarvel.plan.audience_export import export_of
from sarvel.plan.audience_file import read_audience
from sarvel.plan.draft import Backgrounds, Draft, Larger, Mentions, PicturesByHand, drafted, left_over, names_of
from sarvel.plan.key_lines import KeyPath
from sarvel.plan.limits import odd_values
from sarvel.plan.messages import Problem, deepest_line, nearest, shortened, where
from sarvel.plan.read import plan_from
from sarvel.plan.slot_layout import read_ratio, read_shown

BREAKS = {"phone": 0.0, "desktop": 800.0}


def test_an_audience(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("width,height,density,share,label\n390,844,3,15%,phone\n800,600,1.5,2,\n")
    first, second = read_audience(tmp_path / "a.csv")
    assert (first.device, first.share, first.label) == (
        Device(390, 844, 3),
        15,
        "phone",
    ) and second.label == "800 px wide"


@pytest.mark.parametrize(
    ("text", "words"),
    [("width,height\n", ":1: no column density, share"), ("width,height,density,share\n", "no device in it"), ("width,height,density,share\n0,1,1,1\n", ":2: width: got '0'"),
     ("width,height,density,share\n1,1,99,1\n", ":2: density: got '99'"),
     ("width,height,density,share\n900-800,1,1,1\n", ":2: width: got '900-800'; write the narrower end of a range first"),
     ("width,height,density,share\n900-x,1,1,1\n", ":2: width: got 'x'; write a number above 0, up to 100,000, or a range such as 1024-1920"),
     ("Screen,Visits\n390 by 844,3\n", ":2: got '390 by 844' as a size; write one such as 390x844, or take the line away"),
     ("Screen,Visits\n390x844,many\n", ":2: visits: got 'many'; write a number"),
     ("Screen,Colour\n390x844,3\n", ":1: no column width, height, density, share"),
     ("Screen,Visits\n(not set),3\n", "no device in it")],
)  # fmt: skip
def test_an_audience_that_is_none(tmp_path: Path, text: str, words: str) -> None:
    (tmp_path / "a.csv").write_text(text)
    with pytest.raises(PlanError, match=r"a\.csv") as told:
        read_audience(tmp_path / "a.csv")
    assert words in str(told.value)


def test_columns_of_an_export() -> None:
    """A window tells more than its screen; the first name that is known counts."""
    found = export_of(["Screen Size", "Browser size", "Country", "Users", "Sessions"])
    assert found and (found.size, found.visits, found.density, found.screens) == (1, 4, None, False)
    assert export_of(["width", "height", "density", "label"]) is None


def test_ranges_and_exports(tmp_path: Path) -> None:
    """Remarks before the names, sums and unknown sizes among the rows, thousands parted, other separators, UTF-16."""
    cases: list[tuple[str, str, list[tuple[str, float]]]] = [
        ("width,height,density,share\n1024-1920,900,1,3\n", "utf-8", [("1024-1920x900@1", 3)]),
        (
            '# Report\n# 2026\n\nScreen resolution,Active users\n,"48,213"\n1920x1080,"12,034"\n390x844,9120\n(not set),12\n',
            "utf-8-sig",
            [("1440-1920x1080@1", 12034), ("390x844@3", 9120)],
        ),
        ("Viewport\tSessions\n1440x700\t1.204\n820 x 1180\t7\n", "utf-16", [("1440x700@1", 1204), ("820x1180@2", 7)]),
        ("size;share;pixel ratio\n360×800;12,5 %;2\nTotal;100;\n", "utf-8", [("360x800@2", 12.5)]),
    ]
    for text, encoding, found in cases:
        (tmp_path / "a.csv").write_text(text, encoding=encoding)
        assert [(str(one), one.share) for one in read_audience(tmp_path / "a.csv")] == found


@pytest.mark.parametrize(
    ("site", "words"),
    [({"pages": ["**x"]}, "has ** next to other characters"), ({"pages": [" "]}, "is empty"), ({"pages": ["/a/*"]}, "begins at the root"), ({"output": "a" * 300}, "is longer than"),
     ({"masters": "a\0b"}, "holds a NUL"), ({"pages": ["a/*"]}, "")],
)  # fmt: skip
def test_values_that_no_file_can_have(site: dict[str, object], words: str) -> None:
    content = {"site": site, "slots": {"a": {"sizes": "1px"}}}
    told = [str(one) for one in odd_values(content, schema.PlanFile.model_validate(content))]
    assert any(words in one for one in told) if words else not told


@pytest.mark.parametrize(("text", "ratio"), [("4:3", 4 / 3), ("native", None), ("21:9", 21 / 9), ("1.5:1", 1.5)])
def test_ratios(text: str, ratio: float | None) -> None:
    assert read_ratio(text, ()) == ratio


@pytest.mark.parametrize("text", ["169", "4/3", "0:1", "1:0", "1:21", "nan:1", "a:b"])
def test_no_ratios(text: str) -> None:
    with pytest.raises(Problem, match="is no ratio between"):
        read_ratio(text, ())


def test_shown_widths_in_all_forms() -> None:
    forms = [
        {schema.EVERY_BAND: "(min-width: 800px) 50vw, 100vw"},
        {"phone": "100vw", "desktop": "50vw"},
        (
            schema.ShownStep.model_validate({"from": 0, "width": "100vw"}),
            schema.ShownStep.model_validate({"from": 800, "width": "50vw"}),
        ),
    ]
    for form in forms:
        shown = read_shown(form, BREAKS, ())  # type: ignore[arg-type]
        assert [shown.on(Device(width, 900)) for width in (400, 799, 800, 1000)] == [400, 799, 400, 500]
    for wrong in ({"desktop": "50vw"}, {"tablet": "1px"}, {schema.EVERY_BAND: "50%"}, {schema.EVERY_BAND: "0"}):
        with pytest.raises(Problem):
            read_shown(wrong, BREAKS, ())


def test_words() -> None:
    lines: dict[KeyPath, int] = {("slots",): 3, ("slots", "card", "sizes"): 5}
    assert where(Path("s.toml"), lines, ("slots", "card")) == "s.toml:5: slots.card"
    assert where(Path("s.toml"), lines, ("masters", "a b.jpg")) == 's.toml: masters."a b.jpg"'
    assert (
        nearest("crad", ["card", "banner"]) == "did you mean 'card'?"
        and nearest("x", ["card", "banner"]) == "known here: card, banner"
    )
    assert len(shortened("a" * 999)) == 80 and "\n" not in shortened("a\nb") and deepest_line("[\n[[\n]]]\n") == 2


def test_dialects_of_a_plan_are_those_that_there_are() -> None:
    assert set(get_args(DialectName)) == set(DIALECTS)


def test_a_draft_is_a_plan() -> None:
    (image,) = read_document('<img src="a.jpg">').images
    local = LocalImage(image, "a.jpg", "p.html", "p.html:1:1", 300)
    layout = Layout(shaped=True, by_place="figure > img", urgent=True)
    group = Group("card", [".card", '[src="a\'b"]'], layout, [local])
    larger = [Larger("a.jpg", "card", "large/a.jpg", "3:2"), Larger("b.jpg", "card", "large/b.jpg", "")]
    left = {"is animated": ["p.html:1:1", "p.html:2:1", "p.html:3:1", "p.html:4:1"]}
    without = {"a.jpg": "p", 'x "y".jpg': "p"}
    behind = Backgrounds([".top"], ["p.html:1:1"])
    by_hand = [
        PicturesByHand(["(prefers-color-scheme: dark)"], ["picture.x img"], ["p:1:1"], "50vw", {"a.jpg": {1: "n.jpg"}})
    ]
    mentions = [
        Mentions("link", ["p.html:9:1"] * 2, "1600px"),
        Mentions("share", ["p.html:1:1"], ""),
        Mentions("icon", ["p"], ""),
    ]
    draft = Draft(
        "img",
        ["*.html"],
        "pictures",
        [(800, 3), (600, 1)],
        [group],
        without,
        larger,
        behind,
        by_hand,
        mentions,
        "https://x.example",
        left,
    )
    plan = plan_from(tomllib.loads(drafted(draft)), Path("sarvel.toml"), {})
    assert list(plan.starts) == [0, 600, 800]
    card = plan.slots["card"]
    assert [plan.slots[use].use for use in ("link", "share", "icon")] == ["link", "share", "icon"] and plan.url
    assert plan.slots["backdrop"].use == "background" and draft.count == 3
    assert (card.loading, card.reserve, card.formats, len(card.selectors)) == ("eager", "none", ("webp",), 2)
    assert (plan.masters["a.jpg"].crops["card", "all"].master, plan.masters["b.jpg"].crops["card", "all"].master) == (
        "large/a.jpg",
        "large/b.jpg",
    )
    assert left_over(draft, "s.toml") == [
        '2 images without alt; say in s.toml what each shows: a.jpg, x "y".jpg',
        "1 slot: nothing tells how wide images are shown; write it as sizes, or run sarvel measure --save: slots.card",
        "4 images not taken: is animated: p.html:1:1, p.html:2:1, p.html:3:1 and 1 more",
    ]
    assert list(names_of([(800, 3)])) == ["phone", "desktop"]
