"""Finished markup: nothing in it is Sarvel's, and nothing else of it is gone."""

import pytest

from sarvel.core.html.dialect import DIALECTS
from sarvel.pages.weave.finished import finished


@pytest.mark.parametrize(
    ("dialect", "block", "expected"),
    [
        ("html", '<picture>\n  <img data-sarvel="a" data-woven="a.jpg#0f" data-was-width="3" alt="A"\n    src="b">\n</picture>', '<picture>\n  <img alt="A"\n    src="b">\n</picture>'),
        ("html", '<IMG Data-Sarvel=a DATA-WOVEN=a.jpg#0f data-sarvel-allow="huge" src="b" />', '<IMG data-sarvel-allow="huge" src="b" />'),
        ("html", '<link data-sarvel="preloads" data-woven="0f" rel="preload">\n<link data-woven rel="x">', '<link rel="preload">\n<link rel="x">'),
        ("html", '<link data-sarvel="preloads">', ""),
        ("html", '<header data-sarvel="a" data-was-style="x" style="y" data-woven="0f">', '<header style="y">'),
        ("statements", '<img data-woven-bound="boat#0f" src="b" {% if x %}id="y"{% endif %}>', '<img src="b" {% if x %}id="y"{% endif %}>'),
        ("braces", '<p data-woven=""><img data-woven={`${boat}#0f`} src="b" /></p>', '<p><img src="b" /></p>'),
        ("braces", '<SarvelPicture of="a/b.jpg" data-master={boat} />', '<SarvelPicture of="a/b.jpg" data-master={boat} />'),
    ],
)  # fmt: skip
def test_what_weaving_wrote_for_itself_is_left_out(dialect: str, block: str, expected: str) -> None:
    assert finished(block, DIALECTS[dialect]) == expected
