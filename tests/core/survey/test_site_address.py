"""The address of a site, as its pages tell it."""

import pytest

from sarvel.core.html.document import read_document
from sarvel.core.survey.site_address import published_at


@pytest.mark.parametrize(
    ("pages", "expected"),
    [
        (['<link rel="canonical" href="https://x.example/a/b.html?c">'], "https://x.example"),
        (['<meta property="og:url" content="http://x.example:8080">'], "http://x.example:8080"),
        (['<link rel=canonical href="https://x.example">'] * 2 + ['<link rel=canonical href="https://y.example/">'], "https://x.example"),
        (['<link rel="canonical" href="/a"><link rel="canonical" href="{{ url }}">', '<link rel="x" href="https://x.example/">'], ""),
        (['<link rel="canonical" href="https://{{ host }}/a">'], ""),
    ],
)  # fmt: skip
def test_most_pages_count(pages: list[str], expected: str) -> None:
    assert published_at(map(read_document, pages)) == expected
