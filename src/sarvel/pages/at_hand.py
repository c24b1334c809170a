"""Files that the URLs of a page mean, where they are at hand."""

from __future__ import annotations

import urllib.parse
from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True)
class Roots:
    """Where the files of a page may lie.

    Attributes:
        page: the folder of the page.
        output: the folder of renditions; None without a plan.
        address: how pages reach it.
    """

    page: Path
    output: Path | None = None
    address: str = ""


def file_of(url: str, roots: Roots) -> tuple[Path | None, Path | None]:
    """The file that a URL means.

    Returns:
        The file if it is at hand, else None; and where it should be, if it is missing, else None. Where the site's root is
        nobody says: it is taken to be the nearest folder above the page that has the URL's own folder in it.
    """
    parts = urllib.parse.urlsplit(url)
    if parts.scheme or parts.netloc or not parts.path:
        return None, None
    path = urllib.parse.unquote(parts.path)
    address = urllib.parse.unquote(roots.address)
    if roots.output and path.startswith(f"{address}/"):
        file = roots.output / path[len(address) + 1 :]
        if file.is_file() or path.startswith("/"):
            return _there(file)
    if not path.startswith("/"):
        file = roots.page / path
        return _there(file)
    folder = roots.page.absolute()
    places = [base / path.lstrip("/") for base in (folder, *folder.parents)]
    found = next((place for place in places if place.is_file()), None)
    if found or path.count("/") == 1:
        return found, None
    return None, next((place for place in places[:-1] if place.parent.is_dir()), None)


def _there(file: Path) -> tuple[Path | None, Path | None]:
    return (file, None) if file.is_file() else (None, file)
