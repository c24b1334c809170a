"""Places, links followed."""

import os
from pathlib import Path

import pytest

from sarvel.files.places import is_within, real_places


@pytest.mark.parametrize(
    ("place", "top", "within"),
    [("a/b", "a", True), ("a", "a", True), ("ab", "a", False), ("link/b", "a", True), ("a/b", "link", True), ("b", "a", False), ("a", "/", True)],
)  # fmt: skip
def test_what_is_within(tmp_path: Path, place: str, top: str, within: bool) -> None:
    (tmp_path / "a").mkdir()
    (tmp_path / "link").symlink_to("a")
    assert is_within(os.path.realpath(tmp_path / place), real_places([tmp_path / top])) == within
