"""Lines added to a plan; not a byte of the rest changes."""

import pytest

from sarvel.core.crop.place import Box
from sarvel.errors import PlanError
from sarvel.plan import save
from sarvel.plan.save import with_subjects

BOX = Box(0.1, 0.25, 0.5, 0.75)
LINE = "subject = [0.100, 0.250, 0.500, 0.750]\n"


MASTER = f'[masters."a.jpg"]\n{LINE}'


@pytest.mark.parametrize(
    ("before", "after"),
    [
        ("# a plan\n", f"# a plan\n\n{MASTER}"),
        (
            '[masters."a.jpg"]  # mine\nalt = "A"\n\n# next\n[site]\n',
            f'[masters."a.jpg"]  # mine\nalt = "A"\n{LINE}\n# next\n[site]\n',
        ),
        ("[masters.'a.jpg']", f"[masters.'a.jpg']\n{LINE}"),
        ('[masters."a.jpg"]\nsubject = "find"  # look\n', '[masters."a.jpg"]\n' + LINE.strip() + "  # look\n"),
        ('[masters."a.jpg"]\nsubject = [0.5, 0.5]\n', '[masters."a.jpg"]\nsubject = [0.5, 0.5]\n'),
        ('[masters."a.jpg".crops.b.all]\nzoom = 2', f'{MASTER}\n[masters."a.jpg".crops.b.all]\nzoom = 2'),
        ("x = 1\r\n", "x = 1\r\n\r\n" + MASTER.replace("\n", "\r\n")),
        ("", MASTER),
        ('masters = { "a.jpg" = { alt = "" } }\n', 'masters = { "a.jpg" = { alt = "", ' + LINE.strip() + "} }\n"),
        ('masters."a.jpg".alt = "x"\n[site]\n', f'masters."a.jpg".alt = "x"\nmasters."a.jpg".{LINE}[site]\n'),
        ('[masters."b.jpg"]\nalt = "b" # é\n\n[site]\n', f'[masters."b.jpg"]\nalt = "b" # é\n\n{MASTER}[site]\n'),
    ],
)
def test_a_subject_is_added(before: str, after: str) -> None:
    assert with_subjects(before, {"a.jpg": BOX}) == after


def test_where_nothing_can_be_added_it_says_what_to_write(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(save, "_put", lambda *_: None)
    with pytest.raises(PlanError, match=r'masters\."a\.jpg": nothing can be added .*; add by hand: subject = \[0\.100'):
        with_subjects("", {"a.jpg": BOX})
