"""Batches, and sets of names that are not held in memory."""

from sarvel.files.batches import batches
from sarvel.files.name_set import NameSet


def test_batches_hold_all_in_order() -> None:
    assert [*batches(range(7), 3)] == [[0, 1, 2], [3, 4, 5], [6]]
    assert [*batches([], 3)] == []


def test_a_set_of_names_holds_each_once() -> None:
    with NameSet() as names:
        names.add(["a", "ä.webp"])
        names.add(["a", "c"])
        assert len(names) == 3 and "ä.webp" in names and "b" not in names
