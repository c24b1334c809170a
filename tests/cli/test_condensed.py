"""Notices of one kind in one line."""

from dataclasses import replace

from sarvel.cli.ui.condensed import condensed
from sarvel.notices import Kind, Notice


def test_few_notices_stay_as_they_are() -> None:
    notices = [
        Notice(Kind.REMARK, "s.toml: slots.a: x.jpg", "is odd", "mend it"),
        Notice(Kind.IMAGE, "pages/a.html:1:2", "no slot 'a' in the plan"),
        Notice(Kind.CALL, "", "no place at all"),
    ]
    lines = ["s.toml: slots.a: x.jpg: is odd; mend it", "pages/a.html:1:2: no slot 'a' in the plan", "no place at all"]
    assert condensed(notices) == lines


def test_many_of_one_kind_are_one_line_with_those_that_concern_most() -> None:
    soft = Notice(Kind.SMALL, "", "soft on 360x740@3", "give more", "note")
    some = [
        replace(soft, place=f"{name}.jpg", share=share)
        for name, share in (("a", 0.05), ("b", 0.8), ("c", 0.2), ("d", 0.4))
    ]
    other = Notice(Kind.UNPAID, "a.jpg", "webp is left out", severity="note")
    words = "soft on 360x740@3; give more; --verbose has all"
    assert condensed([*some, other]) == [f"4 times, such as b.jpg, d.jpg, c.jpg: {words}", "a.jpg: webp is left out"]


def test_one_cure_tells_one_problem_but_where_cures_name_the_image() -> None:
    told = [Notice(Kind.NO_ALT, f"p.html:{i}:1", "has no alt", f'write it under [masters."{i}.jpg"]') for i in range(5)]
    (line,) = condensed(told)
    places = ", ".join(f"p.html:{i}:1" for i in range(5))
    assert line.startswith(f"5 times, {places}: has no alt; write it under") and "--verbose" not in line
    (many,) = condensed([*told, *(replace(one, place=f"{one.place}:9") for one in told)])
    assert many.count("p.html:") == 8 and many.endswith("; --verbose has all")
    assert len(condensed([replace(one, kind=Kind.IMAGE) for one in told])) == 5


def test_the_figures_of_one_are_not_lent_to_others() -> None:
    some = [
        Notice(Kind.SUBJECT_LOST, f"{i}.jpg", f"{i}% of the subject is lost", "zoom out", share=i / 10)
        for i in range(1, 6)
    ]
    (line,) = condensed(some)
    assert line.startswith(
        "5 times, such as 5.jpg, 4.jpg, 3.jpg; the first of them: 5% of the subject is lost; zoom out"
    )
