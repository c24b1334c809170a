"""Where a project's addresses, calls and imports lead. One answer for every command."""

from __future__ import annotations

import functools
import json
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from types import MappingProxyType

from sarvel.core.html.base import without_base
from sarvel.pages.read.expression import Expression
from sarvel.pages.read.kinds import PAGES, kind_of, read_if_short
from sarvel.pages.read.local_files import is_file, is_folder, path_of

_CONFIGS = ("tsconfig.json", "jsconfig.json", "tsconfig.app.json")
_BUNDLERS = (
    "vite.config.js",
    "vite.config.ts",
    "vite.config.mjs",
    "webpack.config.js",
    "vue.config.js",
    "nuxt.config.js",
    "nuxt.config.ts",
)
_COMMENT = re.compile(r'("(?:[^"\\]|\\.)*")|//[^\n]*|/\*.*?\*/|,(?=\s*[}\]])', re.DOTALL)
# Entries of a bundler's `resolve.alias` that are plain data: "@": "./src", '@': path.resolve(__dirname, 'src'), new URL('./src').
_ALIAS = re.compile(
    r"""['"]?([@~#$]?[\w/-]*)['"]?\s*:\s*(?:[\w.]+\(\s*)*(?:new\s+URL\(\s*|__dirname\s*,\s*)?['"]\.?/?([\w./-]+)['"]"""
)
_USUAL = ("src", "app", "assets", ".")  # what @/ commonly means, the first that is there
_HIGHEST = 8  # folders above a page in which its project is looked for


@dataclass(frozen=True)
class Project:
    """A project's folders.

    Attributes:
        folder: its own.
        tops: folders that / may mean, the likeliest first.
        base: the path that the site is published below, such as /blog; "" for none.
        site: the address that the site is published at, without a slash at its end; "" if it is not known.
    """

    folder: Path
    tops: tuple[Path, ...]
    base: str = ""
    site: str = ""

    def from_root(self, url: str) -> str:
        """An address of the site as seen from its root; any other address as it is."""
        return url[len(self.site) :] if self.site and url.startswith(f"{self.site}/") else url

    def places(self, said: Expression, page: Path) -> Iterator[Path]:
        """The files that an expression of a page may mean, the likeliest first.

        Args:
            page: the folder of the page.
        """
        if said.form == "import":
            yield from self._imported(said.path.partition("?")[0], page)
            return
        path = path_of(said.path)
        if path is None:
            return
        rooted = without_base(path, self.base).lstrip("/")
        if said.form == "address" and not path.startswith("/"):
            yield page / path
        yield from (top / rooted for top in self.tops)
        yield from (root / rooted for root in _roots(self.folder.absolute()))
        if said.form == "call":
            inner = [page, *page.parents]
            yield from (one / rooted for one in inner[: _depth(page, self.folder)])

    def seen(self, said: Expression, page: Path) -> Expression:
        """The same words; a call, if they are an address that leads nowhere from their file, but from a folder of the project.

        So components and templates write addresses that are relative to the one page that they become parts of.

        Args:
            page: the folder of the page.
        """
        folder, path = self.folder.absolute(), path_of(said.path)
        if said.form != "address" or not path or path.startswith("/") or is_file(page / path):
            return said
        is_part = kind_of(folder).way in ("source", "server")
        return replace(said, form="call") if is_part and any(is_file(root / path) for root in _roots(folder)) else said

    def file(self, said: Expression, page: Path) -> Path | None:
        """The file that an expression of a page means; None if none is there."""
        return next(filter(is_file, self.places(said, page)), None)

    def roots_for(self, said: Expression, file: Path) -> tuple[Path, ...]:
        """The folders that an expression may see other files from, given the file that it names; engines join several into one.

        Args:
            file: the file that the expression names.
        """
        own = said.root_of(file)
        return tuple(dict.fromkeys([own, *_roots(self.folder.absolute()), *self.tops])) if own else ()

    def _imported(self, path: str, page: Path) -> Iterator[Path]:
        """The files that a bundler may find by a path, which is relative, or begins with an alias or a folder."""
        path = path.removeprefix("~") if path.startswith("~@") else path
        yield page / path
        for prefix, folders in _aliases(self.folder.absolute()).items():
            if path.startswith(prefix):
                yield from (folder / path[len(prefix) :].lstrip("/") for folder in folders)
        if path.startswith(("@/", "~/")):
            yield from (self.folder / name / path[2:] for name in _USUAL)
        rooted = re.sub(r"^(?:\.{0,2}/)+", "", without_base(path, self.base))
        yield from (top / rooted for top in (*self.tops, *_roots(self.folder.absolute()), self.folder))


def _depth(page: Path, folder: Path) -> int:
    """How many folders there are from a page's up to its project's."""
    inner, outer = page.absolute(), folder.absolute()
    return len(inner.relative_to(outer).parts) + 1 if inner.is_relative_to(outer) else 1


@functools.lru_cache(maxsize=64)
def _roots(folder: Path) -> Sequence[Path]:
    return kind_of(folder).roots_in(folder)


def project_at(page: Path) -> Project:
    """The project that a page without a plan is part of: the nearest folder around it whose kind is known, else the current one.

    Args:
        page: the folder of the page.
    """
    return _project_around(page.absolute(), Path.cwd())


@functools.lru_cache(maxsize=1024)
def _project_around(page: Path, current: Path) -> Project:
    for folder in [page, *page.parents][:_HIGHEST]:
        if kind_of(folder) is not PAGES:
            return Project(folder, tuple(_roots(folder)))
        if (folder / ".git").exists():
            break
    return Project(current if page.is_relative_to(current) else page, ())


@functools.lru_cache(maxsize=64)
def _aliases(folder: Path) -> Mapping[str, Sequence[Path]]:
    """Folders by the beginning of paths of imports: what the project's configuration says, as far as it is plain data."""
    found: dict[str, list[Path]] = {}
    for name in _CONFIGS:
        options = _json(folder / name).get("compilerOptions")
        if not isinstance(options, dict):
            continue
        base = folder / str(options.get("baseUrl") or ".")
        paths = options.get("paths")
        for pattern, places in paths.items() if isinstance(paths, dict) else ():
            for place in places if isinstance(places, list) else ():
                found.setdefault(str(pattern).removesuffix("*"), []).append(base / str(place).removesuffix("*"))
        if "baseUrl" in options:
            found.setdefault("", []).append(base)
    for name in _BUNDLERS:
        for prefix, place in _ALIAS.findall(read_if_short(folder / name)):
            if is_folder(folder / place):
                found.setdefault(f"{prefix.rstrip('/')}/", []).append(folder / place)
    return MappingProxyType(dict(sorted(found.items(), key=lambda one: -len(one[0]))))


def _json(file: Path) -> Mapping[str, object]:
    """A configuration in JSON, which may hold comments and commas at ends; nothing if it cannot be read."""
    try:
        content = json.loads(_COMMENT.sub(lambda found: found[1] or "", read_if_short(file)))
    except ValueError:
        return {}
    return content if isinstance(content, dict) else {}
