"""Portions of what a plan asks for, so that what is worked out at one time stays small."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence

from sarvel.core.edition.compose import masters_of
from sarvel.core.model import Master, Slot

PORTION = 1000
"""Masters that are worked out together: some 20 MB."""


def portions(
    wanted: Sequence[tuple[str, str]],
    slots: Mapping[str, Slot],
    masters: Mapping[str, Master],
    size: Callable[[], int],
) -> Iterator[list[tuple[str, str]]]:
    """Portions of pictures, at least one, the most wanted first: what is seen at once before what is seen later.

    All pictures of a master are in one portion, and so are those of masters that share a cut: a format is given up, and its
    files removed, by what all of them need.

    Args:
        wanted: slot name and master key of pictures.
        slots: by name.
        masters: what the plan says of masters, by key.
        size: asked before each portion: masters in it, >= 1. Only ties make it larger.
    """
    heads: dict[str, str] = {}
    for pair in wanted:
        if pair[1] in masters:
            _tie(heads, masters_of([pair], masters))
    groups: dict[str, list[tuple[str, str]]] = {}
    for pair in sorted(wanted, key=lambda pair: slots[pair[0]].load != "first"):
        groups.setdefault(_head(heads, pair[1]), []).append(pair)
    portion: list[tuple[str, str]] = []
    keys, most = 0, size()
    for group in groups.values():
        if keys and keys + 1 > most:
            yield portion
            portion, keys, most = [], 0, size()
        portion += group
        keys += len({key for _, key in group})
    if portion or not wanted:
        yield portion


def _tie(heads: dict[str, str], keys: Sequence[str]) -> None:
    """Puts masters into one group."""
    first = _head(heads, keys[0])
    for key in keys[1:]:
        heads[_head(heads, key)] = first


def _head(heads: dict[str, str], key: str) -> str:
    """The master that stands for the group of one."""
    while heads.get(key, key) != key:
        key = heads[key]
    return key
