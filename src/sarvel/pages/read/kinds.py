"""The kind of a project, by its own files: how it is built, and where its addresses lead. `kinds.toml` is the table."""

from __future__ import annotations

import contextlib
import functools
import re
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from importlib import resources
from pathlib import Path
from types import MappingProxyType
from typing import Any, Literal, TypeAlias, get_args

from sarvel.pages.read.local_files import is_file, is_folder

Way: TypeAlias = Literal["engine", "source", "server", "pages"]
"""Where images are woven: in the pages that an engine wrote, in components and content, in a server's templates, in pages."""

WAYS: tuple[Way, ...] = get_args(Way)

REASONS: Mapping[Way, str] = MappingProxyType(
    {
        "engine": "its engine writes plain pages, so posts and templates stay as they are",
        "source": "a bundler or a script makes its pages",
        "server": "a server fills its templates",
        "pages": "served as they are",
    }
)
"""Why a kind of project takes its way."""

_LONGEST = 1_000_000  # bytes of a file that is looked into


@dataclass(frozen=True)
class ProjectKind:
    """A kind of project; `kinds.toml` explains the fields."""

    name: str
    way: Way
    marks: tuple[str, ...] = ()
    command: str = ""
    built: tuple[str, ...] = ()
    says_built: tuple[str, ...] = ()
    roots: tuple[str, ...] = ()
    published: str = ""
    below: tuple[str, ...] = ()

    def address_in(self, folder: Path) -> str:
        """What addresses from the root begin with, if the site is published below a path; else ""."""
        file, pattern, address = self.below or ("", "", "")
        return address if file and has(folder, file, pattern) else ""

    def built_in(self, folder: Path) -> tuple[Path | None, str]:
        """The folder that the engine wrote pages to, None if it did not yet; and its name, from the project's folder."""
        said = _group(folder / self.says_built[0], self.says_built[1]) if self.says_built else None
        names = [said.strip("/"), *self.built] if said else list(self.built)
        there = next((folder / name for name in names if is_folder(folder / name)), None)
        return there, there.relative_to(folder).as_posix() if there else names[0] if names else ""

    def roots_in(self, folder: Path) -> list[Path]:
        """The folders that addresses of the sources may be seen from, as far as they are there."""
        found = (sorted(folder.glob(name)) if "*" in name else [folder / name] for name in self.roots)
        return [place for places in found for place in places if is_folder(place)]


PAGES = ProjectKind("a folder of pages", "pages")
"""What no row of the table knows."""


@functools.cache
def kinds() -> tuple[ProjectKind, ...]:
    """The table, in order."""
    text = resources.files("sarvel.pages.read").joinpath("kinds.toml").read_text("utf-8")
    rows: list[dict[str, Any]] = tomllib.loads(text)["kind"]
    return tuple(_kind(row) for row in rows)


def _kind(row: Mapping[str, Any]) -> ProjectKind:
    values: dict[str, Any] = {key: tuple(value) if isinstance(value, list) else value for key, value in row.items()}
    return ProjectKind(**values)


def kind_of(folder: Path) -> ProjectKind:
    """The kind of the project in a folder."""
    return _kind_of(folder.absolute())


@functools.lru_cache(maxsize=64)
def _kind_of(folder: Path) -> ProjectKind:
    return next((kind for kind in kinds() if any(_is_marked(folder, mark) for mark in kind.marks)), PAGES)


def _is_marked(folder: Path, mark: str) -> bool:
    """Tells whether all files that a mark asks for are there."""
    return all(has(folder, *part.partition(" ~ ")[::2]) for part in mark.split(" & "))


def has(folder: Path, name: str, pattern: str) -> bool:
    """Tells whether a project has a file, by its name or a glob, that holds a pattern; or a folder, if a slash ends the name."""
    if name.endswith("/") and "*" not in name:
        return is_folder(folder / name)
    places = folder.glob(name.rstrip("/")) if "*" in name else [folder / name]
    return any((is_folder(one) if name.endswith("/") else is_file(one)) and _says(one, pattern) for one in places)


def _says(file: Path, pattern: str) -> bool:
    return not pattern or re.search(pattern, read_if_short(file)) is not None


def _group(file: Path, pattern: str) -> str | None:
    found = re.search(pattern, read_if_short(file)) if is_file(file) else None
    return found[1] if found else None


def read_if_short(file: Path) -> str:
    """The text of a file; "" if it cannot be read, or is so long that no one wrote it."""
    with contextlib.suppress(OSError):
        if file.stat().st_size <= _LONGEST:
            return file.read_text("utf-8", "replace")
    return ""
