"""The base of a page's addresses."""

import pytest

from sarvel.core.html.base import base_path


@pytest.mark.parametrize(
    ("text", "path"),
    [
        ("<p>no base</p>", None),
        ('<base href="/sub/">', "/sub/"),
        ("<BASE HREF=../x/y.html>", "../x/y.html"),
        ('<base target="_top"><base href="/a/"><base href="/b/">', "/a/"),
        ('<base href="https://example.org/sub/?q#f">', "/sub/"),
        ('<base href="//example.org">', None),
        ('<!-- <base href="/a/"> -->', None),
        ('<base href="{{ root }}">', None),
    ],
)
def test_the_first_base_with_an_address_counts(text: str, path: str | None) -> None:
    """HTML, section 4.2.3: of several base elements the first with an href counts."""
    assert base_path(text) == path
