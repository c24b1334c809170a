"""The files that the addresses of a page mean."""

from __future__ import annotations

import functools
import urllib.parse
from dataclasses import dataclass
from pathlib import Path

from sarvel.core.address.on_request import has_form
from sarvel.core.html.base import without_base
from sarvel.pages.read.expression import Expression, expression
from sarvel.pages.read.local_files import is_file, is_folder, path_of
from sarvel.pages.read.project import Project


@dataclass(frozen=True)
class Roots:
    """The folders in which the files of a page may lie.

    Attributes:
        output: the folder of renditions; None without a plan.
        address: how pages reach it, if the plan says that; else "".
        project: where addresses from the root, calls and imports lead.
        text: the page's text, if imports in it may name files; else "".
        base: the path that the page's relative addresses begin at; None for the page's own.
        on_request: whether files of sealed addresses are made when asked for, so that none is missing.
        elsewhere: what addresses begin with that a service elsewhere answers; "" if none does.
    """

    page: Path
    project: Project
    output: Path | None = None
    address: str = ""
    base: str | None = None
    on_request: bool = False
    elsewhere: str = ""
    text: str = ""

    @functools.cached_property
    def tops(self) -> tuple[Path, ...]:
        """The folders that an address from the root may be seen from, the likeliest first."""
        folder = self.page.absolute()
        return *(top.absolute() for top in self.project.tops[:1]), folder, *folder.parents


def file_of(url: str, roots: Roots) -> tuple[Path | None, Path | None]:
    """Finds the file that a URL means.

    Returns:
        The file if it is at hand, else None; and the path where it is missing, else None. If the site's root is unknown,
        it is the nearest parent of the page that contains the URL's folder.
    """
    said = expression(roots.project.from_root(url), roots.text)
    if said is None:
        return None, None
    said = roots.project.seen(said, roots.page)
    if said.form != "address":  # code may amount to another address, and so no file of it is missing
        return roots.project.file(said, roots.page), None
    file, missing = _file_of(said.path, roots)
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
    path = without_base(path, roots.project.base)
    found = next((place for top in roots.tops if is_file(place := top / path.lstrip("/"))), None)
    found = found or roots.project.file(Expression(path), roots.page)
    if found or path.count("/") == 1:
        return found, None
    places = (top / path.lstrip("/") for top in roots.tops[:-1])
    return None, next((place for place in places if is_folder(place.parent)), None)


def _there(file: Path) -> tuple[Path | None, Path | None]:
    return (file, None) if is_file(file) else (None, file)
