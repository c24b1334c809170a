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
