"""Who names a subject: the plan, a master's metadata, the file of subjects, or a guess; and what is told of it."""

from dataclasses import replace

import pytest

from sarvel.core.crop.place import Box
from sarvel.core.edition.subject import SubjectSource, known_subject
from sarvel.core.facts import FoundSubject, NamedSubject
from sarvel.core.model import Master
from sarvel.notices import Kind
from tests.core.edition.test_compose import BANNER, LAMP, only

ONE, TWO, THREE, FOUR = (Box(n / 10, 0, n / 10 + 0.1, 0.5) for n in range(1, 5))
FILE, IMPORT = NamedSubject((TWO,), "file"), NamedSubject((THREE,), "import", 0.9)
FOUND = FoundSubject(FOUR, 0.7)


@pytest.mark.parametrize(
    ("master", "named", "found", "box", "by", "guessed"),
    [
        (Master(subjects=(ONE,)), FILE, FOUND, ONE, "plan", None),
        (Master(subjects=(ONE,), find=True), None, FOUND, ONE, "plan", None),
        (Master(find=True), FILE, FOUND, TWO, "file", None),
        (Master(), IMPORT, None, THREE, "import", None),
        (Master(), replace(IMPORT, sure=0.6), None, THREE, "import", 0.6),
        (Master(find=True), None, FOUND, FOUR, "guess", 0.7),
        (Master(), None, FOUND, None, "", None),
        (Master(find=True), None, FoundSubject(FOUR, 0.2), None, "guess", 0.2),
    ],
)
def test_who_comes_first(
    master: Master,
    named: NamedSubject | None,
    found: FoundSubject | None,
    box: Box | None,
    by: SubjectSource,
    guessed: float | None,
) -> None:
    facts = replace(LAMP, named=named, found=found)
    known = known_subject(facts, master)
    assert (known.boxes[:1], known.named_by, known.guessed) == ((box,) if box else (), by, guessed)
    crops = only(BANNER, facts, master).crops
    assert {crop.named_by for crop in crops} == {by}
    if box:
        assert all(crop.subjects[0] == known.boxes[0].times(LAMP.width, LAMP.height) for crop in crops[:1])


TALL = Box(0.4, 0, 0.6, 1)


@pytest.mark.parametrize(
    ("named", "severity", "kind"),
    [
        (NamedSubject((TALL,), "file"), "note", Kind.SUBJECT_LOST),
        (NamedSubject((TALL,), "import"), "warning", Kind.SUBJECT_LOST),
        (NamedSubject((TALL,), "import", 0.6), "note", Kind.GUESS_LOST),
    ],
)
def test_a_loss_is_a_warning_where_the_author_wrote_the_subject_down(
    named: NamedSubject, severity: str, kind: Kind
) -> None:
    told = {one.kind: one for one in only(BANNER, replace(LAMP, named=named)).notices}
    assert told[kind].severity == severity and Kind.SUBJECTS_LOST not in told


def test_metadata_that_is_of_no_use_is_a_note() -> None:
    notices = only(BANNER, replace(LAMP, note="its XMP metadata is no XML; no subject is taken from it")).notices
    (note,) = {one for one in notices if one.kind == Kind.REMARK}
    assert (note.severity, note.place) == ("note", LAMP.key) and "no XML" in note.text
