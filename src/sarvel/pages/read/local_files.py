"""Files of this machine, and those that patterns of the plan match; paths of URLs."""

from __future__ import annotations

import os
import urllib.parse
from collections.abc import Iterator, Sequence
from pathlib import Path

from sarvel.core.patterns import matches_name, parts_of


def path_of(url: str) -> str | None:
    """The path of an address within this site, escapes resolved; None for others.

    An address with a scheme, such as of the web, of data or of a script, never means a file of the site. A backslash is read as a
    slash, as browsers do (URL Standard, section 4.4, "path state" of special schemes).
    """
    path, mark, rest = url.partition("?" if "?" in url.partition("#")[0] else "#")
    try:
        parts = urllib.parse.urlsplit(path.replace("\\", "/") + mark + rest)
    except ValueError:  # a bracket in the place of a host is never closed
        return None
    path = urllib.parse.unquote(parts.path, errors="surrogateescape")
    return None if parts.scheme or parts.netloc or not path or "\0" in path else path


def is_file(place: Path) -> bool:
    """Tells whether there is a file, and no folder, pipe or device; False for names that no file can have."""
    try:
        return place.is_file()
    except (OSError, ValueError):
        return False


def is_folder(place: Path) -> bool:
    """Tells whether there is a folder, as for is_file."""
    try:
        return place.is_dir()
    except (OSError, ValueError):
        return False


def files_matching(folder: Path, pattern: str) -> list[Path]:
    """The files that a pattern means, sorted by path; see `core.patterns`. Links to folders are not followed.

    Args:
        folder: the folder that patterns are seen from.
    """
    return sorted(dict.fromkeys(each_matching(folder, pattern)))


def each_matching(folder: Path, pattern: str) -> Iterator[Path]:
    """As files_matching, but in any order, some maybe twice, and one at a time: a Path takes a kilobyte."""
    place = folder / pattern
    if is_file(place):
        yield place
    else:
        yield from _files_below(place) if is_folder(place) else _expanded(folder, parts_of(pattern))


def _files_below(folder: Path) -> Iterator[Path]:
    """All files in a folder and in the folders within it."""
    for inner, _, names in os.walk(folder):
        yield from filter(is_file, (Path(inner, name) for name in names))


def _expanded(folder: Path, parts: Sequence[str]) -> Iterator[Path]:
    """The files that the parts of a pattern lead to from a folder."""
    if not parts:
        yield from _files_below(folder)
        return
    part, *rest = parts
    if part == "..":
        yield from _expanded(folder / part, rest)
        return
    if part == "**":
        yield from _expanded(folder, rest)
    for entry in _entries(folder):
        if is_folder(entry):
            if part == "**" and not entry.is_symlink():
                yield from _expanded(entry, parts)
            elif part == entry.name or (part != "**" and not entry.is_symlink() and matches_name(part, entry.name)):
                yield from _expanded(entry, rest)
        elif not rest and (part == "**" or matches_name(part, entry.name)) and is_file(entry):
            yield entry


def _entries(folder: Path) -> list[Path]:
    try:
        return list(folder.iterdir())
    except OSError:
        return []
