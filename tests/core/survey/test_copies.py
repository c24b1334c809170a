"""Names of one photograph in several sizes."""

import pytest

from sarvel.core.survey.copies import photo_name


@pytest.mark.parametrize(
    ("stem", "size", "expected"),
    [
        ("boat-300", (300, 200), "boat"),
        ("boat-200", (300, 200), "boat"),
        ("Boat_300x200", (300, 200), "boat"),
        ("boat.300w", (300, 200), "boat"),
        ("boat@2x", (600, 400), "boat"),
        ("boat-1.5x", (600, 400), "boat"),
        ("boat-thumbnail", (60, 40), "boat"),
        ("boat large", (60, 40), "boat"),
        ("boat", (600, 400), "boat"),
        ("race-2019", (600, 400), "race-2019"),
        ("IMG_4711", (600, 400), "img_4711"),
        ("300", (300, 200), "300"),
        ("small", (300, 200), "small"),
    ],
)
def test_a_size_is_no_part_of_it(stem: str, size: tuple[int, int], expected: str) -> None:
    assert photo_name(stem, *size) == expected
