"""Intended meanings of candidates of a srcset that browsers drop."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator
from dataclasses import replace

from sarvel.core.check.context import FileLookup
from sarvel.core.check.slips import Repair, Slip, slip_of, swap
from sarvel.core.html.images import is_file_name
from sarvel.core.html.srcset import Candidate, parse_srcset

_DESCRIPTOR = re.compile(r"(?:\d+w|\d*\.?\d+x)\Z")
_ADDRESS = re.compile(r"[./]")
_DECIMAL_COMMA = re.compile(r"\d+\Z")  # before a comma, behind which stands "5x"
_LEAST_WIDTH = 16  # px; a smaller bare number is a density
_SPACES = re.compile(r"\s+")


def srcset_slips(text: str, lookup: FileLookup) -> list[tuple[Candidate, Slip | None]]:
    """The candidates that a browser drops, each with its intended meaning, if known."""
    found: list[tuple[Candidate, Slip | None]] = []
    candidates = parse_srcset(text)
    kinds = {_kind(one) for one in candidates if not one.fault}
    for i, one in enumerate(candidates):
        if i and _DESCRIPTOR.match(one.url) and not one.descriptors:
            slip = _parted(candidates[i - 1], one)
            found += [(one, slip)] if slip else []
        if not one.fault:
            continue
        follower = candidates[i + 1] if i + 1 < len(candidates) else None
        torn = follower and _DECIMAL_COMMA.search(one.descriptors[-1]) and re.fullmatch(r"\d+x", follower.url)
        end = follower.end if follower and torn else one.end
        slip = slip_of(text, one.start, end, _REPAIRS, lambda new: _is_sound(new) and _are_there(new, lookup))
        slip = slip or slip_of(text, one.start, end, _REPAIRS, _is_sound)
        found.append((one, replace(slip, sure=_is_sure(one, slip, kinds, lookup)) if slip else None))
    return found


def _parted(one: Candidate, descriptor: Candidate) -> Slip | None:
    """The slip of a comma between an address and its descriptor."""
    if one.descriptors or not is_name(one.url):
        return None
    words = f"a comma parts {descriptor.url} from its address"
    meant = f"{one.url} {descriptor.url}"
    return Slip(one.end, descriptor.start, " ", words, meant, (one.end, descriptor.end))


def _is_sound(text: str) -> bool:
    """Tells whether all candidates are read, and have addresses that look like some."""
    return all(not one.fault and (is_name(one.url) or "/" in one.url) for one in parse_srcset(text))


def _are_there(text: str, lookup: FileLookup) -> bool:
    """Tells whether no file is known to be missing."""
    return not any(file.missing for one in parse_srcset(text) if (file := lookup(one.url)))


def is_name(url: str) -> bool:
    """Tells whether an address ends in the name of an image file."""
    return is_file_name(url.split("?", 1)[0].rsplit("/", 1)[-1])


def _is_sure(before: Candidate, slip: Slip, kinds: set[str], lookup: FileLookup) -> bool:
    """Tells whether nothing else can be meant: one kind of descriptor in the list, and files that bear it out."""
    candidates = parse_srcset(slip.meant)
    if len(kinds | {_kind(one) for one in candidates}) > 1:
        return False
    files = [lookup(one.url) for one in candidates]
    if "," not in slip.text and any(
        file and file.width and one.width and file.width != one.width
        for one, file in zip(candidates, files, strict=True)
    ):
        return False
    if "%20" in slip.text or any(one.width is None and one.density is None for one in candidates):
        return all(file is not None and not file.missing for file in files)
    if any(re.fullmatch(r"\d+", descriptor) for descriptor in before.descriptors) and not kinds:
        return all(file is not None and file.width == one.width for one, file in zip(candidates, files, strict=True))
    return True


def _kind(one: Candidate) -> str:
    return "w" if one.width is not None else "x"


def _commas(text: str) -> Iterator[tuple[str, str, bool]]:
    """Puts commas between candidates that only white space parts."""
    words = [(found.group(), found.start(), found.end()) for found in re.finditer(r"[^\s,]+", text)]
    ends = [
        end
        for (word, _, end), (after, start, _) in itertools.pairwise(words)
        if not text[end:start].strip() and _DESCRIPTOR.match(word) and _ADDRESS.search(after)
    ]
    ends += [
        end
        for (word, _, end), (after, start, _) in itertools.pairwise(words)
        if not text[end:start].strip() and is_name(word) and is_name(after)
    ]
    if ends:
        new = "".join(letter + ("," if i + 1 in ends else "") for i, letter in enumerate(text))
        yield new, f"a comma is missing behind {text[: min(ends)].rsplit(maxsplit=1)[-1]}", True


def _spaces(text: str) -> Iterator[tuple[str, str, bool]]:
    """Escapes the white space within the address of one candidate."""
    parts = _SPACES.split(text)
    last = len(parts) - 1 if _DESCRIPTOR.match(parts[-1]) else len(parts)
    if last > 1 and not any(map(_DESCRIPTOR.match, parts[:last])) and "," not in text:
        address, rest = "%20".join(parts[:last]), parts[last:]
        yield " ".join([address, *rest]), f"a space ends the address {parts[0]}, before {parts[last - 1]}", True


def _bare(text: str) -> Iterator[tuple[str, str, bool]]:
    """Gives bare numbers the unit that numbers of their size have."""
    found = re.search(r"(?<=\s)(\d+)(?=\s*(?:,|$))", text)
    if found:
        unit = "w" if int(found.group()) >= _LEAST_WIDTH else "x"
        new = f"{text[: found.end()]}{unit}{text[found.end() :]}"
        yield new, f"{found.group()} has no unit: did you mean {found.group()}{unit}?", True


_END = r"(?=\s*(?:,|$)|\s+\S*[./])"
_REPAIRS: tuple[Repair, ...] = (
    swap(r"(?<=\s)(\d+),(\d+)x" + _END, r"\1.\2x", r"a comma parts candidates, and so \1,\2x: did you mean \1.\2x?"),
    swap(r"\s*;\s*", ", ", "a semicolon parts nothing here: did you mean a comma?"),
    _commas,
    swap(
        r"(?<=\s)(\d+)(?:\s*(?:px|pixels?|wide|W|vw|pw))" + _END,
        r"\1w",
        r"no descriptor is written \g<0>: did you mean \1w?",
    ),
    swap(r"(?<=\s)([\d.]+)X" + _END, r"\1x", r"no descriptor is written \g<0>: did you mean \1x?"),
    swap(r"(?<=\s)@?([wx])(\d[\d.]*)" + _END, r"\2\1", r"no descriptor is written \g<0>: did you mean \2\1?"),
    swap(r"(?<=\s)@([\d.]+x)" + _END, r"\1", r"no descriptor is written \g<0>: did you mean \1?"),
    swap(r"(?<=\s)(\d[\d.]*)\s+([wx])" + _END, r"\1\2", r"a space parts \1 from its unit: did you mean \1\2?"),
    swap(r"(?<=\s)\+(\d[\d.]*[wx])" + _END, r"\1", r"no descriptor is written \g<0>: did you mean \1?"),
    swap(r"(?<=\s)(\d+)\.0*w" + _END, r"\1w", r"a width is a whole number: did you mean \1w?"),
    swap(r"(?<=\s)\(?(\d+)w\)" + _END, r"\1w", r"no descriptor is written \g<0>: did you mean \1w?"),
    swap(r"(?<=\s)(\d+w)\s+[\d.]+x" + _END, r"\1", r"\g<0> is a width and a density: did you mean \1 alone?"),
    _spaces,
    _bare,
)
