"""What patterns of paths mean."""

import pytest

from sarvel.core.patterns import matches

CASES = [
    ("pages/*.html", "pages/a.html", True),
    ("pages/*.html", "pages/b/a.html", False),
    ("pages", "pages/b/a.html", True),
    ("pages/", "pages/a.html", True),
    ("./pages", "pages/a.html", True),
    ("page", "pages/a.html", False),
    ("*", "a.html", True),
    ("*", "pages/b/a.html", True),  # the folder matches, and all in it is meant
    ("**/*.html", "a.html", True),
    ("**/*.html", "x/y/a.html", True),
    ("posts/**", "posts/a/b.md", True),
    ("posts/**", "posts", False),
    ("posts/**/c.md", "posts/c.md", True),
    ("p?ges/a", "pages/a", True),
    ("p?a", "p/a", False),
    ("[ab]x", "bx", True),
    ("[!ab]x", "bx", False),
    ("[!ab]x", "/x", False),
    ("[a-c]1", "b1", True),
    ("[z-a]", "[z-a]", True),  # no set of letters, so it stands for itself
    ("[z-a]", "b", False),
    ("boat[draft].jpg", "boat[draft].jpg", True),
    ("boat[draft].jpg", "boatd.jpg", True),
    ("a[b", "a[b", True),
    ("../shared/*.md", "../shared/a.md", True),
    ("A.html", "a.html", False),
    (".", "a/b", True),
]


@pytest.mark.parametrize(("pattern", "path", "meant"), CASES)
def test_a_pattern_means_a_path(pattern: str, path: str, *, meant: bool) -> None:
    assert matches(pattern, path) is meant
