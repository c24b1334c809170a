"""The way in which a project's images are woven, and the files to look at for it. For `start`."""

from __future__ import annotations

import collections
import contextlib
import re
import urllib.parse
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from pathlib import Path

from sarvel.errors import PageError, PlanError
from sarvel.pages.read.kinds import PAGES, REASONS, ProjectKind, Way, kind_of
from sarvel.pages.read.local_files import is_file
from sarvel.pages.read.page_files import SERVABLE, read_text
from sarvel.pages.read.project import Project
from sarvel.pages.read.scan import dialects_of_scripts

_ENOUGH = 40  # pages that tell the path that a site is published below
_ROOTED = re.compile(r"""\s(?:href|src)=["']?(/[^/"'\s>][^"'\s>]*)""", re.IGNORECASE)
_WOVEN = ("published", *(f"published-{number}" for number in range(2, 100)))


@dataclass(frozen=True)
class Ground:
    """What `start` looks at.

    Attributes:
        folder: whose pages and images it looks at.
        left_out: folders within it that an engine or a bundler writes.
        built: the name of the folder of pages that an engine wrote; "" for none.
        woven: the name of the folder for woven pages; "" weaves in place.
        dialects: names of dialects by file ending, where the project has its own.
    """

    kind: ProjectKind
    way: Way
    folder: Path
    project: Project
    left_out: tuple[Path, ...] = ()
    built: str = ""
    woven: str = ""
    dialects: Mapping[str, str] = field(default_factory=dict)

    @property
    def reason(self) -> str:
        """The way and why it is taken, in a line."""
        where = {
            "engine": f"{self.built}/ is woven into {self.woven}/",
            "source": "its source is woven in place",
            "server": "they are woven in place",
            "pages": "woven in place",
        }
        return f"{self.kind.name}: {REASONS[self.way]}; {where[self.way]}"


def ground_of(root: Path, way: Way | None = None, built: Path | None = None) -> Ground:
    """What there is to look at.

    Args:
        way: the way to take; None for that of the project's kind.
        built: the folder that the engine wrote; None for that of the project's kind.

    Raises:
        PlanError: the engine has not written its pages yet.
    """
    kind = kind_of(root)
    there, name = kind.built_in(root)
    taken: Way = way or ("engine" if built and kind is PAGES else kind.way)
    if built is not None and taken == "engine":
        there, name = built, _name(built, root)
    if taken != "engine":
        places = [*(root / one for one in kind.built), *([built] if built else [])]
        left_out = tuple(place for place in places if place.is_dir())
        dialects = dialects_of_scripts(root, left_out) if taken == "source" else {}
        return Ground(kind, taken, root, Project(root, tuple(kind.roots_in(root))), left_out, dialects=dialects)
    if there is None or not any(_pages(there)):
        command = f"run {kind.command} once" if kind.command else "build the site once"
        cure = f"{command} and start again; or name its folder with --built, or another way with --way"
        raise PlanError.at(root, f"{kind.name} has not written {name or 'its pages'} yet, where images are woven", cure)
    woven = next(one for one in _WOVEN if not (root / one).exists())
    return Ground(kind, taken, there, Project(there, (there,), base_of_site(there)), (), name, woven)


def _name(place: Path, root: Path) -> str:
    inner, outer = place.absolute(), root.absolute()
    if not inner.is_relative_to(outer):
        raise PlanError.at(place, f"is not in {root}", "name a folder of the project")
    return inner.relative_to(outer).as_posix()


def _pages(folder: Path) -> Iterator[Path]:
    return (file for ending in SERVABLE for file in folder.rglob(f"*{ending}"))


def base_of_site(built: Path) -> str:
    """The path that built pages are published below, by their own addresses from the root; "" for none."""
    found: collections.Counter[str] = collections.Counter()
    for file in sorted(_pages(built))[:_ENOUGH]:
        with contextlib.suppress(PageError):  # which the survey reports
            paths = {urllib.parse.unquote(path) for path in _ROOTED.findall(read_text(file).text)}
            found.update(_bases(paths, built))
    base, count = max(found.items(), key=lambda one: one[1], default=("", 0))
    return base if 2 * count > found.total() else ""


def _bases(paths: Iterable[str], built: Path) -> Iterator[str]:
    """For each path that leads to a file, the part in front of it."""
    for path in paths:
        parts = path.partition("#")[0].partition("?")[0].strip("/").split("/")
        for count in range(len(parts)):
            place = built.joinpath(*parts[count:])
            if is_file(place) or is_file(place / "index.html"):
                yield "/" + "/".join(parts[:count]) if count else ""
                break
