"""Notices of one kind in one line: their count, their places, and the text of the one that concerns most visits."""

from __future__ import annotations

from collections.abc import Iterable

from sarvel.notices import Kind, Notice

_FEW = 3
_NAMED = 8  # places that are named where no share of visits tells which matter most: each wants to be mended
_OWN_CURES = {Kind.NO_ALT}  # kinds whose cures name the very image; of all others one cure tells one problem


def condensed(notices: Iterable[Notice]) -> list[str]:
    """Lines for notices; more than three notices of one kind become one line."""
    kinds: dict[tuple[Kind, str, str], list[Notice]] = {}
    for one in notices:
        kinds.setdefault((one.kind, one.severity, "" if one.kind in _OWN_CURES else one.cure), []).append(one)
    return [line for some in kinds.values() for line in (map(str, some) if len(some) <= _FEW else [_in_one_line(some)])]


def _in_one_line(some: list[Notice]) -> str:
    worst = sorted(some, key=lambda one: -(one.share or 0.0))
    places = list(dict.fromkeys(one.place or one.text for one in worst))
    named = places[: _FEW if any(one.share for one in some) else _NAMED]
    such, more = (" such as", "; --verbose has all") if len(named) < len(places) else ("", "")
    words = ": " if len({one.text for one in some}) == 1 else "; the first of them: "  # its figures are not the others'
    return f"{len(some)} times,{such} {', '.join(named)}{words}{worst[0].words}{more}"
