"""Batches: many things, some at a time."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from itertools import islice
from typing import TypeVar

_Thing = TypeVar("_Thing")


def batches(things: Iterable[_Thing], size: int) -> Iterator[list[_Thing]]:
    """Things in their order, at most `size` (>= 1) at a time; no empty batch."""
    left = iter(things)
    while batch := list(islice(left, size)):
        yield batch
