"""Files of this machine, by the URLs of a page, and by patterns of the plan."""

from __future__ import annotations

import os
import urllib.parse
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from sarvel.core.address.on_request import has_form
from sarvel.core.patterns import matches_name, parts_of


@dataclass(frozen=True)
class Roots:
    """The folders in which the files of a page may lie.

    Attributes:
        output: the folder of renditions; None without a plan.
        address: how pages reach it, if the plan says that; else "".
        root: the folder that is served as /; None if unknown.
        base: the path that the page's relative addresses begin at; None for the page's own.
        on_request: whether files of sealed addresses are made when asked for, so that none is missing.
        elsewhere: what addresses begin with that a service elsewhere answers; "" if none does.
    """

    page: Path
    output: Path | None = None
    address: str = ""
    root: Path | None = None
    base: str | None = None
    on_request: bool = False
    elsewhere: str = ""


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


def file_of(url: str, roots: Roots) -> tuple[Path | None, Path | None]:
    """Finds the file that a URL means.

    Returns:
        The file if it is at hand, else None; and the path where it is missing, else None. If the site's root is unknown,
        it is the nearest parent of the page that contains the URL's folder.
    """
    file, missing = _file_of(url, roots)
    if missing and (_is_made_later(url, roots) or (roots.elsewhere and url.startswith(roots.elsewhere))):
        return None, None
    return file, missing


def _is_made_later(url: str, roots: Roots) -> bool:
    return roots.on_request and has_form((path_of(url) or "").lstrip("/")) is not None


def _file_of(url: str, roots: Roots) -> tuple[Path | None, Path | None]:
    path = path_of(url)
    if path is None:
        return None, None
    address = urllib.parse.unquote(roots.address)
    if roots.output and address and path.startswith(f"{address}/"):
        file = roots.output / path[len(address) + 1 :]
        if is_file(file) or path.startswith("/"):
            return _there(file)
    if not path.startswith("/") and roots.base is None:
        return _there(roots.page / path)
    if not path.startswith("/"):
        path = f"{(roots.base or '').rpartition('/')[0]}/{path}"
        if not path.startswith("/") or (roots.base or "").startswith("./"):
            return _there(roots.page / path)
    folder = roots.page.absolute()
    tops = ([roots.root.absolute()] if roots.root else []) + [folder, *folder.parents]
    places = [top / path.lstrip("/") for top in tops]
    found = next((place for place in places if is_file(place)), None)
    if found or path.count("/") == 1:
        return found, None
    return None, next((place for place in places[:-1] if is_folder(place.parent)), None)


def _there(file: Path) -> tuple[Path | None, Path | None]:
    return (file, None) if is_file(file) else (None, file)


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
