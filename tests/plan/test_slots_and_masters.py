"""Slots and masters of a plan, each read or told of on its own: one fault hides no other."""

import tomllib

from sarvel.plan.messages import Problem
from sarvel.plan.schema import PlanFile, with_defaults
from sarvel.plan.slots_and_masters import masters_of, slots_of

TEXT = """
[breakpoints]
phone = 0
desktop = 800
[slots.good]
sizes = { phone = "100vw", desktop = "50vw" }
crops = { phone = "1:1", desktop = "2:1" }
[slots.bad]
sizes = "wide"
[slots.other]
sizes = "40px"
crops = "4:x"
[masters."a.jpg".crops.good.phone]
zoom = 2
[masters."b.jpg".crops.none.phone]
zoom = 2
"""


def test_each_is_read_or_told_of() -> None:
    parsed = PlanFile.model_validate(with_defaults(tomllib.loads(TEXT)))
    found = list(slots_of(parsed))
    read = dict(one for one in found if not isinstance(one, Problem))
    problems = [one for one in found if isinstance(one, Problem)]
    assert read.keys() == {"good"} and len(problems) == 2
    masters = list(masters_of(parsed, read))
    assert [one[0] for one in masters if not isinstance(one, Problem)] == ["a.jpg"]
    told = [one for one in masters if isinstance(one, Problem)]
    assert len(told) == 1 and told[0].path[:2] == ("masters", "b.jpg")


def test_links_lead_to_a_slot_of_their_own_or_to_another() -> None:
    text = """
    [site]
    url = "https://x.example/"
    [slots.card]
    sizes = "100px"
    links = "1600px"
    [slots.thumb]
    sizes = "50px"
    links = "large"
    [slots.large]
    use = "link"
    sizes = "900px"
    crops = "3:2"
    [slots.share]
    use = "share"
    [slots.icon]
    use = "icon"
    widths = [64]
    """
    parsed = PlanFile.model_validate(with_defaults(tomllib.loads(text)))
    slots = dict(one for one in slots_of(parsed) if not isinstance(one, Problem))
    assert list(slots) == ["card", "thumb", "large", "share", "icon", "card-link"]
    assert (slots["card"].links, slots["thumb"].links, slots["large"].links) == ("card-link", "large", "")
    assert [slots[name].shown.constant() for name in ("card-link", "large", "share", "icon")] == [1600, 900, 1200, 32]
    assert [slots[name].formats for name in ("card-link", "share", "icon")] == [("jpeg",), ("jpeg",), ("png",)]
    assert slots["share"].crops[0].ratio == 1200 / 630 and slots["icon"].widths == (64,)
