"""Reports and proofs are written over earlier ones, and over nothing else."""

from pathlib import Path

import pytest
from PIL import Image

from sarvel.errors import OutputError
from sarvel.files.reports import is_for_people, png_file, write_for_people


def test_what_is_no_report_stays(tmp_path: Path) -> None:
    file, other = tmp_path / "proof.png", tmp_path / "mine.png"
    for size in (4, 8):
        write_for_people(file, png_file(Image.new("RGB", (size, size))))
        assert is_for_people(file)
    Image.new("RGB", (4, 4)).save(other)
    before = other.read_bytes()
    with pytest.raises(
        OutputError, match=r"mine\.png: is there already, and is no report or proof of Sarvel; name another"
    ):
        write_for_people(other, png_file(Image.new("RGB", (4, 4))))
    assert other.read_bytes() == before and not is_for_people(tmp_path / "none")
