"""Lines added to a plan; not a byte of the rest changes."""

import pytest

from sarvel.core.crop.place import Box
from sarvel.errors import PlanError
from sarvel.plan.save import with_subjects

BOX = Box(0.1, 0.25, 0.5, 0.75)
LINE = "subject = [0.100, 0.250, 0.500, 0.750]\n"


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ("# a plan\n", f'# a plan\n\n[masters."a.jpg"]\n{LINE}'),
        (
            '[masters."a.jpg"]  # mine\nalt = "A"\n\n# next\n[site]\n',
            f'[masters."a.jpg"]  # mine\n{LINE}alt = "A"\n\n# next\n[site]\n',
        ),
        ("[masters.'a.jpg']", f"[masters.'a.jpg']\n{LINE}"),
        ('[masters."a.jpg"]\nsubject = "find"\n', '[masters."a.jpg"]\nsubject = "find"\n'),
        (
            '[masters."a.jpg".cuts.b.all]\nzoom = 2',
            f'[masters."a.jpg".cuts.b.all]\nzoom = 2\n\n[masters."a.jpg"]\n{LINE}',
        ),
        ("x = 1\r\n", 'x = 1\r\n\r\n[masters."a.jpg"]\r\n' + LINE.replace("\n", "\r\n")),
        ("", f'\n[masters."a.jpg"]\n{LINE}'),
    ],
)
def test_lines_are_added(before: str, after: str) -> None:
    assert with_subjects(before, {"a.jpg": BOX}) == after


def test_where_no_line_can_be_added_it_says_which() -> None:
    with pytest.raises(PlanError, match=r'masters\."a\.jpg": no line can be added .*; add by hand: subject = \[0\.100'):
        with_subjects('masters = { "a.jpg" = { alt = "" } }\n', {"a.jpg": BOX})
