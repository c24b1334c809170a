"""Page files: which there are, and their text, byte for byte."""

from __future__ import annotations

import itertools
import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from sarvel.core.html.base import without_base
from sarvel.core.html.dialect import HTML, Dialect, dialect_of
from sarvel.core.patterns import WILD, matches
from sarvel.errors import PageError, PlanError, cure_of
from sarvel.pages.read.encodings import KEPT, encoding_of, mark_of, unread
from sarvel.pages.read.expression import Expression
from sarvel.pages.read.local_files import files_matching, is_file, is_folder, path_of
from sarvel.pages.read.project import Project

SERVABLE = (".html", ".htm", ".xhtml", ".xht")
"""Endings of pages that a browser shows directly; other pages are made into such by some program."""

_NOTHING: Mapping[str, str] = {}
_PUBLIC = frozenset({".htaccess", ".nojekyll", ".well-known"})  # hidden files that servers read


@dataclass(frozen=True)
class PageFile:
    """A page of the site.

    Attributes:
        target: of the woven page; the same, if it is woven in place.
        dialect: how it is read and written.
        slot: the slot of its images that name none; None where those are not ours.
        top: the folder that it is written below; None where it is woven in place.
        marked: whether its woven markup keeps the author's, so that it can be woven again and taken back.
    """

    source: Path
    target: Path
    dialect: Dialect = HTML
    slot: str | None = None
    top: Path | None = None
    marked: bool = True


@dataclass(frozen=True)
class PageText:
    """The text of a page, and its encoding.

    Attributes:
        mark: the byte-order mark, if it has one.
    """

    text: str
    encoding: str
    mark: bytes

    def encoded(self, text: str) -> bytes:
        """Another text in the same encoding; letters that it lacks as character references."""
        return self.mark + text.encode(self.encoding, KEPT)


def find_pages(
    folder: Path,
    patterns: Iterable[str],
    woven: Path | None,
    dialects: Mapping[str, str] = _NOTHING,
    content: Mapping[str, str] = _NOTHING,
    left_out: Callable[[Path], bool] = lambda _: False,
    where: Callable[..., str] = lambda *keys: ".".join(keys),
) -> tuple[list[PageFile], list[PageFile]]:
    """The pages that a plan names, and the other files of the same folders.

    Args:
        patterns: folders, files or patterns, seen from it.
        woven: where woven pages go; None weaves in place.
        dialects: names of dialects by file ending, before our own.
        content: slots of images that name none, by the pattern of their pages; the longest counts.
        left_out: whether a file that was found by a pattern is neither a page nor to be copied.
        where: tells where the keys of the plan stand.

    Returns:
        Pages in the order of the patterns, by path within each; and, if `woven` is given, other files next to them and
        belongs there too, such as stylesheets.

    Raises:
        PlanError: a pattern matches nothing, or no page.
    """
    unused = dict(content)
    pages: dict[Path, PageFile] = {}
    others: dict[Path, PageFile] = {}
    for pattern in patterns:
        base = base_of(folder, pattern)
        found = [file for file in files_matching(folder, pattern) if file == folder / pattern or not left_out(file)]
        if not found:
            raise PlanError.at(
                where("site", "pages"),
                f"'{pattern}' matches no file in {folder}",
                "write a folder, a file or a pattern that does",
            )
        for file in found:
            dialect = dialect_of(file.name, dialects) or (HTML if file == folder / pattern else None)
            slot, matched = _slot(file, folder, content if dialect else {})
            target = woven / file.relative_to(base) if woven else file
            page = PageFile(file, target, dialect or HTML, slot, woven, marked=woven is None)
            if dialect or not _is_private(file.relative_to(base)):
                (pages if dialect else others).setdefault(file, page)
            for one in matched:
                unused.pop(one, None)
    for one in unused:
        raise PlanError.at(where("content", one), "no page lies there", "add its folder to site.pages, or correct it")
    return list(pages.values()), list(others.values()) if woven else []


def source_of(
    target: Path, folder: Path, patterns: Iterable[str], woven: Path | None, dialects: Mapping[str, str] = _NOTHING,
    content: Mapping[str, str] = _NOTHING,
) -> PageFile | None:  # fmt: skip
    """The page that one in the woven folder was written from; None for any other file. Arguments as in `find_pages`."""
    name = _below(_flat(str(target)), _flat(str(woven))) if woven else None
    sources = (base_of(folder, pattern) / name for pattern in patterns) if name else iter(())
    source = next(filter(is_file, sources), None)
    dialect = dialect_of(target.name, dialects) or HTML
    return PageFile(source, target, dialect, _slot(source, folder, content)[0], woven) if source else None


def _slot(file: Path, folder: Path, content: Mapping[str, str]) -> tuple[str | None, list[str]]:
    """The slot of a page's images that name none, and the patterns that mean the page; the longest counts."""
    name = seen_from(folder, file)
    matched = [one for one in content if matches(one, name)]
    return (content[max(matched, key=len)] if matched else None), matched


def seen_from(folder: Path, file: Path) -> str:
    """The path of a file as patterns are compared with it: from the plan's folder, with forward slashes."""
    return os.path.relpath(file.absolute(), folder.absolute()).replace(os.sep, "/")


def _is_private(path: Path) -> bool:
    """Tells whether a site does not publish a file: hidden, or in a hidden folder or one of packages."""
    return any((part.startswith(".") and part not in _PUBLIC) or part == "node_modules" for part in path.parts)


def base_of(folder: Path, pattern: str) -> Path:
    """The folder that a pattern's places below `woven` are relative to: the part before its first wildcard."""
    place = folder / pattern
    if is_folder(place):
        return place
    if is_file(place):
        return place.parent
    fixed = itertools.takewhile(lambda part: not WILD & set(part), PurePosixPath(pattern).parts[:-1])
    return folder.joinpath(*fixed)


def read_text(file: Path) -> PageText:
    """A page's text.

    Raises:
        PageError: it cannot be read.
    """
    try:
        content = file.read_bytes()
    except FileNotFoundError as error:
        raise PageError.at(file, "there is no such file", "mend its name") from error
    except OSError as error:
        raise PageError.at(file, f"cannot be read ({error.strerror})", cure_of(error)) from error
    if strange := unread(content):
        raise PageError.at(file, f"is {strange}, which browsers do not read", "save it as UTF-8")
    mark, encoding = mark_of(content)
    encoding = encoding or encoding_of(content)
    try:
        return PageText(content[len(mark) :].decode(encoding, "strict" if mark else KEPT), encoding, mark)
    except UnicodeDecodeError as error:
        raise PageError.at(
            file,
            f"byte {error.start + len(mark)} is not {encoding.upper()[:6].rstrip('-')}, as its first bytes say",
            "save it as UTF-8",
        ) from error


def changes(file: Path, before: str, after: str) -> str:
    """The changes of a page, as a unified diff."""
    import difflib

    lines = difflib.unified_diff(
        before.splitlines(keepends=True), after.splitlines(keepends=True), str(file), str(file)
    )
    return "".join(line if line.endswith("\n") else line + "\n" for line in lines)


def master_named(
    said: Expression, page: Path, project: Project, masters_folder: Path, based: Sequence[Path] = ()
) -> str | None:
    """The key of the master that an expression in a page means, or None if it points outside the masters folder.

    An address is seen from the page, as a browser does; else from the folders that are served, or may be; else from the masters
    folder. The first of these that lies in the masters folder counts, a file that exists before others.

    Args:
        based: folders that relative addresses are seen from first, as the page's base element has it.
    """
    path = said.path if said.form == "import" else path_of(said.path)
    if path is None:
        return None
    root, first = _flat(str(masters_folder)), None
    before = [] if path.startswith("/") or said.form != "address" else [folder / path for folder in based]
    own = (
        []
        if said.form == "import" or path.startswith("../")
        else [masters_folder / without_base(path, project.base).lstrip("/")]
    )
    for place in itertools.chain(before, project.places(said, page.parent), own):
        key = _below(_flat(str(place)), root)
        if key and is_file(masters_folder / key):
            return key
        first = first or key
    return first


def _below(place: str, folder: str) -> str | None:
    """The path from a folder down to a place, with forward slashes; None if it is not below it."""
    top = folder.rstrip(os.sep) + os.sep
    return place[len(top) :].replace(os.sep, "/") if place.startswith(top) and len(place) > len(top) else None


def _flat(*parts: str) -> str:
    """A path from the root, without dots. Links are not followed, and no file is looked for: there may be thousands."""
    return os.path.abspath(os.path.join(*parts))  # noqa: PTH100, PTH118 - pathlib takes five times as long for it
