"""Slips of the pen: the text that was meant, found by trying repairs until one reads without fault."""

from __future__ import annotations

import difflib
import functools
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import TypeAlias

Repair: TypeAlias = Callable[[str], Iterator[tuple[str, str, bool]]]
"""Takes a faulty text; yields candidates for the intended text, each with the fault in words, and whether it is certain."""

_MOST_REPAIRS = 3  # in one piece; who makes more slips in it means what no one can tell
_LONGEST = 2000  # letters of a piece; no one mends a longer one in his head, either
_MOST_TRIED = 300  # texts; three repairs of an ambiguous piece make so many
_ALIKE = 0.75  # of two words, as difflib has it: scrset and srcset amount to 0.83, lazzy and lazy to 0.89
_WORD = re.compile(r"[\w.%#/+-]")


@dataclass(frozen=True)
class Slip:
    """A slip of the pen in the value of an attribute.

    Attributes:
        start: offset in the value at which the letters to replace start.
        says: the fault, in words.
        meant: the whole intended candidate, entry or condition.
        marked: start and end offset of the words that are wrong.
        sure: whether nothing else can be meant.
    """

    start: int
    end: int
    text: str
    says: str
    meant: str
    marked: tuple[int, int]
    sure: bool = True


def slip_of(
    value: str, start: int, end: int, repairs: Sequence[Repair], is_sound: Callable[[str], bool]
) -> Slip | None:
    """The slip in a piece of a value, by the fewest repairs that make it sound; None if they do not.

    Args:
        start: offset at which the faulty piece starts.
        is_sound: whether a text is without fault.
    """
    piece = value[start:end]
    if len(piece) > _LONGEST:
        return None
    tried = {piece}
    reached = [(piece, "", True)]
    for _ in range(_MOST_REPAIRS):
        further = []
        for text, said, sure in reached:
            for new, words, surely in (found for repair in repairs for found in repair(text)):
                if new in tried or len(tried) > _MOST_TRIED:
                    continue
                tried.add(new)
                says = f"{said.rstrip('?')}; {words}" if said else words
                if is_sound(new):
                    return replace(_slip(value, start, piece, new, says), sure=sure and surely)
                further.append((new, says, sure and surely))
        reached = further
    return None


def _slip(value: str, at: int, piece: str, new: str, says: str) -> Slip:
    first = next((i for i, (a, b) in enumerate(zip(piece, new, strict=False)) if a != b), min(len(piece), len(new)))
    least = min(len(piece), len(new)) - first
    same = next((i for i in range(least) if piece[-1 - i] != new[-1 - i]), least)
    start, end = first, len(piece) - same
    marked = _to_words(value, at + start, at + end)
    return Slip(at + start, at + end, new[first : len(new) - same], says, new, marked)


def _to_words(value: str, start: int, end: int) -> tuple[int, int]:
    """A span widened to whole words, at least one."""
    while start > 0 and _WORD.match(value[start - 1]):
        start -= 1
    while end < len(value) and _WORD.match(value[end]):
        end += 1
    if not value[start:end].strip(" ()"):
        start, end = max(0, start - 1), min(len(value), end + 1)
    return start, end


def swap(pattern: str, new: str, words: str, *, sure: bool = True) -> Repair:
    r"""A repair that writes another text no matter where a pattern is found; in it and in the words `\\1` is the first group."""
    found = re.compile(pattern)

    def repair(text: str) -> Iterator[tuple[str, str, bool]]:
        first = found.search(text)
        if first:
            yield found.sub(new, text), first.expand(words).strip(), sure

    return repair


@functools.lru_cache(maxsize=1024)
def nearest(word: str, known: tuple[str, ...]) -> str:
    """The known word that is meant by a misspelt one; "" if none is near enough."""
    near = difflib.get_close_matches(word.lower(), [one for one in known if one], 1, _ALIKE)
    return near[0] if near else ""


def did_you_mean(word: str, known: tuple[str, ...]) -> str:
    """A question with the nearest known word; "" if none is near enough."""
    near = nearest(word, known)
    return f": did you mean {near}?" if near else ""
