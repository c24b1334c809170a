"""Tags in their exact place, in pages of every kind of untidiness."""

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sarvel.core.html.tags import line_and_column, read_tag, tags


def found(page: str) -> list[str]:
    return [page[tag.start : tag.end] for tag in tags(page)]


@pytest.mark.parametrize(
    ("page", "wanted"),
    [
        ("<p>a < b <img src=x></p>", ["<p>", "<img src=x>", "</p>"]),
        ("<!-- <img> --><img>", ["<img>"]),
        ("<!--><img><!---><b><!-- a --!><i>", ["<img>", "<b>", "<i>"]),
        ("<!-- never closed <img>", []),
        ("<script>'<img>'</script><img>", ["<script>", "</script>", "<img>"]),
        ("<SCRIPT>'<img></scripty>'</Script ><img>", ["<SCRIPT>", "</Script >", "<img>"]),
        ("<style>a > b</style><textarea><img></textarea>", ["<style>", "</style>", "<textarea>", "</textarea>"]),
        ("<title><img></title>", ["<title>", "</title>"]),
        ("<noscript><img></noscript>", ["<noscript>", "<img>", "</noscript>"]),
        ("<!doctype html><img alt='a > b'>", ["<img alt='a > b'>"]),
        ("<?php if ($a > 1) echo '<img>' ?><img>", ["<img>"]),
        ('<img alt="<b>"/><br/>', ['<img alt="<b>"/>', "<br/>"]),
        ("</ not a tag><img", []),
        ("<b><img alt='never closed><p>", ["<b>"]),
    ],
)
def test_what_is_a_tag(page: str, wanted: list[str]) -> None:
    assert found(page) == wanted


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("<img>", []),
        ("<img a=\"1\" b='2' c=3 d>", [("a", "1"), ("b", "2"), ("c", "3"), ("d", None)]),
        ('<img a = "1"\n\tB\n=\n2/>', [("a", "1"), ("B", "2/")]),
        ('<img a="1"b="2"/>', [("a", "1"), ("b", "2")]),
        ("<img alt=>", [("alt", None)]),
        ('<img a="x&amp;&quot;y&copy;">', [("a", "x&amp;&quot;y&copy;")]),
        ("<img / / a>", [("a", None)]),
    ],
)
def test_attributes(text: str, wanted: list[tuple[str, str | None]]) -> None:
    tag = read_tag(text, 0)
    assert tag and [(attribute.name, attribute.raw) for attribute in tag.attributes] == wanted
    assert tag.end == len(text)


def test_of_two_attributes_the_first_counts_and_references_are_resolved() -> None:
    tag = read_tag('<IMG ALT="a &amp; b" alt="c">', 0)
    assert tag and tag.name == "img"
    alt = tag.get("alt")
    assert alt and alt.value == "a & b"


@pytest.mark.parametrize(
    ("text", "at", "place"),
    [("ab\ncd", 4, (2, 2)), ("ab\r\ncd", 4, (2, 1)), ("a\rb\rc", 4, (3, 1)), ("abc", 0, (1, 1))],
)
def test_line_and_column(text: str, at: int, place: tuple[int, int]) -> None:
    assert line_and_column(text, at) == place


@given(st.text(alphabet="<>/!-=\"' aimgscript?\n"))
def test_any_text_is_read_and_tags_never_overlap(page: str) -> None:
    spans = [(tag.start, tag.end) for tag in tags(page)]
    assert all(start < end for start, end in spans)
    assert all(end <= start for (_, end), (start, _) in itertools.pairwise(spans))
