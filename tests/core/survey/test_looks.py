"""Which pages are worth opening: at most some of each kind."""

import pytest

from sarvel.core.html.dialect import HTML
from sarvel.core.survey.looks import looks_in, worth_opening

PAGE = '<link rel="stylesheet" href="{}"><body><div class="{}"><p>{}</p><img src="{}.jpg"{}></div>'


@pytest.mark.parametrize(
    ("other", "alike"),
    [
        (("site.css", "card", "Other words, and <em>more</em>.", "b", ""), True),
        (("../site.css", "card", "", "a", ' alt="A gull"'), True),
        (("print.css", "card", "", "a", ""), False),
        (("site.css", "card wide", "", "a", ""), False),
        (("site.css", "card", "", "a", ' width="40"'), False),
        (("site.css", "card", "", "a", ' class="left"'), False),
    ],
)
def test_pages_whose_images_stand_in_the_same_elements_are_of_one_kind(other: tuple[str, ...], *, alike: bool) -> None:
    one = looks_in(PAGE.format("site.css", "card", "Words.", "a", ""), HTML)
    assert (looks_in(PAGE.format(*other), HTML) == one) == alike


def test_pages_without_images_are_of_the_kind_of_their_stylesheets() -> None:
    texts = ["<style>p {}</style><p>a", "<style>p {}</style><p>b", "<style>b {}</style><p>a", "<p>a"]
    assert len({frozenset(looks_in(text, HTML)) for text in texts}) == 3


def test_few_pages_are_all_opened_and_of_many_some_of_each_kind() -> None:
    few = {number: {"a"} for number in range(12)}
    assert worth_opening(few, 1) == set(few)
    many = {number: {"rare", "a"} if number == 50 else {"ab"[number % 2]} for number in range(100)}
    assert worth_opening(many, 2) == {0, 1, 2, 3, 50}
