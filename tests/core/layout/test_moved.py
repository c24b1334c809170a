"""Boxes before and after."""

import pytest

from sarvel.core.layout.moved import Rect, changes_of

BOXES = [
    ("main", (0.0, 0.0, 300.0, 400.0)),
    ("img.wide", (10.0, 20.0, 188.0, 188.0)),
    ("p", (10.0, 210.0, 280.0, 20.0)),
]


@pytest.mark.parametrize(
    ("number", "rect", "says"),
    [
        (1, (10, 20, 188, 189), None),
        (1, (10, 20, 188, 468), "img.wide 188×188 became 188×468"),
        (2, (10, 212.5, 280, 20), "p moved from 10, 210 to 10, 212.5"),
    ],
)
def test_changes(number: int, rect: Rect, says: str | None) -> None:
    after = [(label, rect if i == number else box) for i, (label, box) in enumerate(BOXES)]
    assert [str(one) for one in changes_of(BOXES, after) or []] == ([says] if says else [])


def test_other_elements_are_no_changes() -> None:
    assert changes_of(BOXES, BOXES[:2]) is None and changes_of(BOXES, [*BOXES[:2], ("b", BOXES[2][1])]) is None
    assert changes_of(BOXES, [(label.replace("wide", "woven"), box) for label, box in BOXES]) == [], (
        "a class may come or go"
    )
