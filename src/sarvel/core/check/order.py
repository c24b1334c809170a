"""Orders in which each of several conditions counts somewhere, where the first that holds counts."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence

from sarvel.core.html.pieces import Edit
from sarvel.core.html.tags import Tag

_MOST = 24  # conditions that are put in order; more take long, and are written by a program


def living_order(count: int, dead: Callable[[Sequence[int]], Sequence[int]]) -> list[int] | None:
    """An order in which nothing is dead, by the fewest moves, or empty; None if there are too many to try.

    Args:
        dead: takes their numbers in an order; returns the places of numbers that can never count.
    """
    if count > _MOST:
        return None
    order = list(range(count))
    for _ in range(count + 1):
        places = dead(order)
        if not places:
            return order
        place = places[0]
        one = order.pop(place)
        for at in range(place - 1, -1, -1):
            if at not in dead([*order[:at], one]):
                order.insert(at, one)
                break
        else:
            return []
    return []


def order_edits(text: str, tags: Sequence[Tag], order: Sequence[int] | None) -> tuple[Edit, ...]:
    """The edits that put tags in another order; none where more than white space stands between them.

    Args:
        tags: in the order of the page.
        order: the numbers of the tags, as they should stand; empty or None for no other.
    """
    between = [text[one.end : after.start] for one, after in itertools.pairwise(tags)]
    if not order or any(piece.strip() for piece in between):
        return ()
    return tuple(
        Edit(tags[place].start, tags[place].end, text[tags[one].start : tags[one].end])
        for place, one in enumerate(order)
        if place != one
    )
