"""The files that patterns and addresses mean, on files."""

from pathlib import Path

import pytest

from sarvel.core.patterns import matches
from sarvel.pages.read.local_files import files_matching
from sarvel.pages.read.project import Project
from sarvel.pages.read.roots import Roots, file_of

TREE = ["a.html", "b.md", "pages/c.html", "pages/deep/d.html", "pages/[draft]/e.html", "site[1]/f.html", ".g/h.html"]


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    for name in TREE:
        (tmp_path / "s[1]" / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / "s[1]" / name).write_text("")
    return tmp_path / "s[1]"


PATTERNS = ["pages", "pages/*", "pages/*.html", "**/*.html", "**", "*", "site[1]", "pages/[draft]", "pages/[d]*", "pages/**/d.html", "[ab].*",
    "none", "none/*", "pages/../*.md", "?.html"]  # fmt: skip


@pytest.mark.parametrize("pattern", PATTERNS)
def test_what_is_found_is_what_matches(folder: Path, pattern: str) -> None:
    found = [file.relative_to(folder).as_posix() for file in files_matching(folder, pattern)]
    if ".." not in pattern:
        assert found == sorted(name for name in TREE if matches(pattern, name))
    else:
        assert found == ["pages/../b.md"]


def test_links_to_folders_are_no_trap(folder: Path) -> None:
    (folder / "pages" / "loop").symlink_to(folder, target_is_directory=True)
    assert len(files_matching(folder, "**/*.html")) == len(TREE) - 1


@pytest.mark.parametrize(
    ("url", "there", "missing"),
    [
        ("c.html", "pages/c.html", None),
        ("../a.html?x#y", "a.html", None),
        ("/b.md", "b.md", None),
        ("deep/none.html", None, "pages/deep/none.html"),
        ("/pages/none.html", None, "pages/none.html"),
        ("%5Bdraft%5D/e.html", "pages/[draft]/e.html", None),
        ("https://example.com/c.html", None, None),
        ("http://[x/a", None, None),
    ],
)
def test_the_file_of_an_address(folder: Path, url: str, there: str | None, missing: str | None) -> None:
    found = file_of(url, Roots(folder / "pages", Project(folder, ())))
    assert [one and one.resolve() for one in found] == [one and (folder / one).resolve() for one in (there, missing)]
