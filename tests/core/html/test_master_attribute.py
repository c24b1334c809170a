"""The author's `src` with a mark behind it, in every form of value, and as it was."""

import pytest

from sarvel.core.html.master_attribute import mark_in, marked, master_of, unmarked
from sarvel.core.html.tags import read_tag
from sarvel.core.html.template_code import braces


@pytest.mark.parametrize(
    ("behind", "expected"),
    [
        ('="a.jpg"', '="a.jpg#0f"'),
        (" = 'a b.jpg '", " = 'a b.jpg #0f'"),
        ("=a.jpg", "=a.jpg#0f"),
        ('="icons.svg#dad"', '="icons.svg#dad#0f"'),
        ("={{ page.image }}", "={{ page.image }}#0f"),
        ("={boat}", "={`${boat}#0f`}"),
        ("={`/img/${name}.jpg`}", "={`${`/img/${name}.jpg`}#0f`}"),
    ],
)
def test_a_mark_is_put_behind_a_value_and_taken_away(behind: str, expected: str) -> None:
    assert marked(behind, "0f") == expected and unmarked(expected) == (behind, "0f")


@pytest.mark.parametrize(
    ("tag", "master", "mark"),
    [
        ('<img data-woven="a.jpg#0f">', "a.jpg", "0f"),
        ("<img data-woven={`${boat}#0f`} />", "{boat}", "0f"),
        ('<img data-woven-bound="boat#0f">', "boat", "0f"),
        ('<img data-woven="a.jpg#mine">', "a.jpg#mine", None),
        ('<SarvelPicture data-master="icons.svg#dad" />', "icons.svg#dad", None),
        ('<img src="a.jpg#0f">', None, None),
    ],
)
def test_what_a_woven_img_says(tag: str, master: str | None, mark: str | None) -> None:
    read = read_tag(tag, 0, braces)
    assert read and master_of(read) == master and mark_in(read) == mark
