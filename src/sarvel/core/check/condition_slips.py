"""Intended meanings of entries of sizes, and of media conditions, that browsers drop or do not know."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import replace

from sarvel.core.check.slips import Repair, Slip, nearest, slip_of, swap
from sarvel.core.css.features import FEATURES, VALUES
from sarvel.core.css.lengths import UNITS
from sarvel.core.css.media import MediaError, parse_media, parse_media_strictly
from sarvel.core.html.sizes import parse_sizes

_SUM = re.compile(r"(\d(?:[a-z]+|%)|\))\s*([-+])\s*(?=[\d(.]|calc|min|max)", re.IGNORECASE)
_BRACKETED = re.compile(r"(?:\s*(?:not|and|or)?\s*\([^()]*\))+\s*")


def sizes_slips(text: str) -> list[tuple[int, int, str, Slip | None]]:
    """The entries of sizes that browsers drop.

    Returns:
        Start and end offset of each in the text, the fault, and its intended meaning, if known.
    """
    found = []
    for start, end in entry_spans(text):
        fault = _fault(text[start:end])
        if not fault:
            continue
        follower = re.compile(r"\s*,[^,]*").match(text, end) if _BRACKETED.fullmatch(text[start:end]) else None
        to = len(text[: follower.end()].rstrip()) if follower else end
        slip = slip_of(text, start, to, _REPAIRS, lambda new: not _fault(new))
        if slip and follower and to == len(text.rstrip()):  # the length may be forgotten, and what follows be for all
            slip = replace(slip, sure=False)
        found.append((start, end, fault, slip))
    return found


def media_slip(text: str) -> Slip | None:
    """The intended media query list, for one that never holds; None if unknown."""
    start = len(text) - len(text.lstrip())
    return slip_of(text, start, len(text.rstrip()), _CONDITIONS, _can_hold)


def entry_spans(text: str) -> list[tuple[int, int]]:
    """Start and end offsets of the entries of sizes, between commas outside brackets, without white space."""
    spans, depth, start = [], 0, 0
    for i, letter in enumerate([*text, ","]):
        if letter in "([{":
            depth += 1
        elif letter in ")]}":
            depth = max(0, depth - 1)
        elif letter == "," and (not depth or i == len(text)):
            piece = text[start:i]
            spans.append((start + len(piece) - len(piece.lstrip()), start + len(piece.rstrip())))
            start = i + 1
    return [(start, max(start, end)) for start, end in spans]


def _fault(css: str) -> str:
    """Why browsers drop an entry, or one of several; "" if they do not."""
    for entry in parse_sizes(css):
        if entry.fault:
            return entry.fault
        if entry.media.css and not entry.media.test.can_hold:
            return f"'{entry.media.css}' never holds"
    return ""


def _can_hold(css: str) -> bool:
    try:
        return bool(parse_media_strictly(css).test.can_hold) and bool(parse_media(css).test.can_hold)
    except MediaError:
        return False


def _misspelt_features(text: str) -> Iterator[tuple[str, str, bool]]:
    for found in re.finditer(r"(?<=[(\s])([a-z][\w-]*)(?=\s*[:<>=)])", text, re.IGNORECASE):
        name = found.group().lower()
        meant = nearest(name, FEATURES) if name not in FEATURES and name not in ("and", "or", "not") else ""
        if meant:
            words = f"no browser knows {found.group()}: did you mean {meant}?"
            yield f"{text[: found.start()]}{meant}{text[found.end() :]}", words, True


def _misspelt_units(text: str) -> Iterator[tuple[str, str, bool]]:
    for found in re.finditer(r"(?<=\d)[a-z]{1,5}\b", text, re.IGNORECASE):
        unit = found.group().lower()
        turned = [one for one in UNITS if sorted(one) == sorted(unit)]
        near = turned or [one for one in UNITS if len(one) > 1 and unit in (one[:-1], one + one[-1], one[0] + one)]
        if unit not in UNITS and near:
            words = f"no length is written in {found.group()}: did you mean {near[0]}?"
            yield f"{text[: found.start()]}{near[0]}{text[found.end() :]}", words, bool(turned)


def _misspelt_values(text: str) -> Iterator[tuple[str, str, bool]]:
    for found in re.finditer(r"(?<=:)(\s*)([a-z][\w-]*)(?=\s*\))", text, re.IGNORECASE):
        meant = nearest(found.group(2), VALUES)
        if meant and found.group(2).lower() not in VALUES:
            words = f"no feature has the value {found.group(2)}: did you mean {meant}?"
            yield f"{text[: found.start(2)]}{meant}{text[found.end() :]}", words, True


def _unspaced_sums(text: str) -> Iterator[tuple[str, str, bool]]:
    """Puts spaces around + and - that stand between values."""
    new = _SUM.sub(r"\1 \2 ", text)
    if new != text:
        yield new, "+ and - need a space on both sides", True


def _unclosed(text: str) -> Iterator[tuple[str, str, bool]]:
    """Closes a bracket behind a feature and its value."""
    found = re.search(r"\([\w-]+\s*:\s*[\d.]+[a-z]+(?=\s|$)(?![^(]*\))", text, re.IGNORECASE)
    if found:
        yield f"{text[: found.end()]}){text[found.end() :]}", f"{found.group()} lacks its closing bracket", True


_NUMBER = r"(\d[\d.]*)"
_FEATURE = r"((?:min-|max-)?(?:width|height|aspect-ratio))"
_CONDITIONS: tuple[Repair, ...] = (
    _misspelt_features,
    _misspelt_values,
    _misspelt_units,
    swap(rf"(?<!\()\b{_FEATURE}\s*:\s*{_NUMBER}([a-z]+)(?!\))", r"(\1: \2\3)", r"\1: \2\3 needs brackets"),
    swap(rf"(?<=:)(\s*){_NUMBER}(?=\s*\))", r"\1\2px", r"\2 has no unit: did you mean \2px?"),
    swap(rf"([<>]=?\s*){_NUMBER}(?=\s*\))", r"\1\2px", r"\2 has no unit: did you mean \2px?"),
    swap(rf"\({_FEATURE}\s+{_NUMBER}", r"(\1: \2", r"a colon is missing behind \1"),
    swap(rf"\({_FEATURE}\s*=\s*{_NUMBER}", r"(\1: \2", r"\1 takes a colon in the place of ="),
    swap(
        rf"{_FEATURE}\s*\(\s*{_NUMBER}([a-z]*)\s*\)", r"(\1: \2\3)", r"\g<0> is no condition: did you mean (\1: \2\3)?"
    ),
    swap(rf"{_NUMBER}\s+(px|em|rem|vw)\b", r"\1\2", r"a space parts \1 from its unit"),
    swap(r"=([<>])", r"\1=", r"=\1 is no comparison: did you mean \1=?"),
    swap(r"\b(and|or)\(", r"\1 (", r"a space is missing behind \1"),
    swap(r"\)(and|or)\b", r") \1", r"a space is missing before \1"),
    swap(r"\s*&&?\s*", " and ", "&& is not CSS: did you mean and?"),
    swap(r"\)\s+\(", ") and (", "two conditions are joined by nothing: did you mean and?"),
    swap(r"^\s*@media\s*", "", "@media belongs in stylesheets"),
    swap(r"\b(only\s+)?(sreen|screeen|scren|secreen)\b", r"\1screen", r"no browser knows \2: did you mean screen?"),
    swap(r"[{};]+\s*$", "", r"\g<0> belongs in stylesheets"),
    _unclosed,
    swap(
        r"min-width:\s*([\w.]+)\) and \(max-width:\s*([\w.]+)",
        r"min-width: \2) and (max-width: \1",
        r"no viewport is at least \1 and at most \2 wide: did you swap them?",
        sure=False,
    ),
)
_LENGTH = r"(\d[\d.]*(?:px|r?em|[sld]?vw|vh|%)|(?:calc|min|max|clamp)\([^()]*(?:\([^()]*\)[^()]*)*\))"
_REPAIRS: tuple[Repair, ...] = (
    swap(r"\s*;\s*", ", ", "a semicolon parts nothing here: did you mean a comma?"),
    swap(rf"(?:^|(?<=\)\s)|(?<=\)))(?<!:){_NUMBER}$", r"\1px", r"\1 has no unit: did you mean \1px?"),
    _unspaced_sums,
    swap(rf"\)\s*,\s*{_LENGTH}$", r") \1", r"a comma parts \1 from its condition"),
    swap(rf"(?<=[\s)]){_LENGTH}\s+(?=[(\d]|calc|min|max|clamp)", r"\1, ", r"a comma is missing behind \1"),
    swap(rf"^{_LENGTH}\s+(?=[(\d]|calc|min|max|clamp)", r"\1, ", r"a comma is missing behind \1"),
    swap(rf"^{_LENGTH}\s+(\([^()]*\))$", r"\2 \1", r"\1 comes before its condition"),
    swap(r"\b(?:only\s+)?(?:screen|all)\s+and\s+", "", r"sizes takes no type of media, such as \g<0>"),
    swap(r"^([^(),]*\d[a-z%]*\s*[-+*/]\s*[^(),]*)$", r"calc(\1)", "sums need calc()"),
    swap(r"(?<=\))\s*:\s*", " ", "a colon follows the condition"),
    *_CONDITIONS,
)
