"""The state of a layout: styles and elements change it, words do not."""

import pytest

from sarvel.core.html.dialect import HTML
from sarvel.pipeline.layout_state import layout_state

PAGE = '<style>p { width: 9px }</style><p class="a" id="b">Words <img width="3" src="a.jpg" alt="A"></p>'


@pytest.mark.parametrize(
    ("old", "new", "changes"),
    [
        ("Words", "Other words", False), ('alt="A"', 'alt="B"', False), ("a.jpg", "b.jpg", False), ('class="a" id="b"', 'id="b" class="a"', False),
        ('class="a"', 'class="c"', True), ("9px", "8px", True), ('width="3"', 'width="4"', True), ("</p>", "</p><br>", True),
    ],
)  # fmt: skip
def test_what_changes_it(old: str, new: str, changes: bool) -> None:
    state = layout_state(PAGE, HTML, [b"img { width: 1px }"])
    assert (layout_state(PAGE.replace(old, new), HTML, [b"img { width: 1px }"]) != state) is changes
    assert layout_state(PAGE, HTML, [b"img { width: 2px }"]) != state
