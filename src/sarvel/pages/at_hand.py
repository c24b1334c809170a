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


def file_of(url: str, roots: Roots) -> tuple[Path | None, bool]:
    """The file that a URL means.

    Returns:
        The file if it is at hand, else None; and whether it is missing: it should be at hand and is not.
        A URL from the site's root may lie anywhere, so only what it finds counts.
    """
    parts = urllib.parse.urlsplit(url)
    if parts.scheme or parts.netloc or not parts.path:
        return None, False
    path = urllib.parse.unquote(parts.path)
    address = urllib.parse.unquote(roots.address)
    if roots.output and path.startswith(f"{address}/"):
        file = roots.output / path[len(address) + 1 :]
        if file.is_file() or path.startswith("/"):
            return (file, False) if file.is_file() else (None, True)
    if not path.startswith("/"):
        file = roots.page / path
        return (file, False) if file.is_file() else (None, True)
    folder = roots.page.absolute()
    found = (base / path.lstrip("/") for base in (folder, *folder.parents))
    return next((file for file in found if file.is_file()), None), False
