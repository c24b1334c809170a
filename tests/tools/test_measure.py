"""Images of one slot, sorted apart by how a browser shows them; the browser itself is tried in tests/browser."""

from pathlib import Path

import pytest

from sarvel.core.layout.alike import Measured
from sarvel.core.layout.bends import first_looks
from sarvel.errors import PlanError
from sarvel.pipeline.listener import Nobody
from sarvel.plan.read import read_plan
from sarvel.tools.measure.slots import kinds_of, measure_plan


def box(share: float) -> Measured:
    return Measured({viewport: share * viewport if share else None for viewport in first_looks()}, {})


def test_the_commonest_width_is_the_slots_and_others_are_told_apart() -> None:
    images = [("a", box(0.5)), ("b", box(1)), ("c", box(0)), ("d", box(1))]
    found = [(kind.places, kind.fitted and kind.fitted.steps) for kind in kinds_of(images)]
    assert found == [(("b", "d"), ((0, "100vw"),)), (("a",), ((0, "50vw"),)), (("c",), None)]


def test_what_cannot_be_measured_is_told_before_a_browser_starts(site: Path) -> None:
    plan = read_plan(site / "sarvel.toml")
    with pytest.raises(PlanError, match=r"none\.html: there is no such page; name one that a browser shows"):
        measure_plan(plan, ["none.html"], None, Nobody())
    (site / "pages" / "index.html").write_text("<p>No image.")
    with pytest.raises(
        PlanError, match="no image of these pages is for a slot of the plan; name the pages that show some"
    ):
        measure_plan(plan, [], None, Nobody())
