"""Rules: each has an example with the fault and one without, which are what they say."""

import re

import pytest

from sarvel.core.check.all_rules import check
from sarvel.core.check.context import Context, LinkedFile
from sarvel.core.check.rule import SEVERITIES, Rule
from sarvel.core.css.device import Device
from sarvel.core.html.document import read_document
from sarvel.rules import RULES
from tests.core.check.test_check import PLAN

NAME = re.compile(r"(?:grey%20)?([\w]+)-(\d+)\.(webp|avif|jpg|jpeg|png)")


def lookup(address: str) -> LinkedFile | None:
    """The files of the examples: gull-400.webp is 400 px wide, and so on."""
    found = NAME.fullmatch(address)
    if not found:
        return None
    name, width, ending = found[1], int(found[2]), found[3]
    if name == "gone" or ending == "jpeg":
        return LinkedFile(missing=True, near="" if name == "gone" else f"{name}-{width}.jpg")
    kind = "image/webp" if name == "scan" else f"image/{ending.replace('jpg', 'jpeg')}"
    height = 300 if name == "panorama" else width * 3 // 4
    weight = {"heavy": 200_000, "whole": 5_000_000}.get(name, 20_000)
    return LinkedFile(width, height, kind, real_name="gull-400.webp" if name == "Gull" else "", weight=weight)


def found_in(markup: str) -> set[str]:
    context = Context(lookup, slots=PLAN.slots, rules=RULES, budgets={Device(360, 740, 3): 100_000})
    return {one.rule for one in check(read_document(markup), context)}


@pytest.mark.parametrize("rule", RULES.values(), ids=RULES)
def test_an_example_shows_the_fault_and_its_mend(rule: Rule) -> None:
    assert rule.severity in SEVERITIES and rule.why and rule.mend and rule.bounds
    if rule.name != "layout-changed-since":  # which no markup shows
        assert rule.name in found_in(rule.before)
        assert rule.name not in found_in(rule.after)
