"""What the files that a page names are, as far as they are at hand: only their headers are read, and each once."""

from __future__ import annotations

import os
from pathlib import Path

from sarvel.core.check.seen import FileSeen
from sarvel.core.html.code import holds_code
from sarvel.pages.at_hand import Roots, file_of


class FilesSeen:
    """Answers what an address of a page leads to."""

    def __init__(self, roots: Roots) -> None:
        """Begins to look.

        Args:
            roots: where the files of the page may lie.
        """
        self._roots = roots
        self._known: dict[str, FileSeen | None] = {}

    def __call__(self, address: str) -> FileSeen | None:
        """The file of an address; None if it is elsewhere, or what a template engine writes."""
        if not address or holds_code(address):
            return None
        if address not in self._known:
            self._known[address] = self._look(address)
        return self._known[address]

    def _look(self, address: str) -> FileSeen | None:
        file, missing = file_of(address, self._roots)
        if file is None and not missing:
            return None
        name = address.split("?", maxsplit=1)[0].split("#", maxsplit=1)[0].rsplit("/", 1)[-1]
        if file is None:
            folder = (self._roots.page / address.split("?", maxsplit=1)[0]).parent
            alike = next((one for one in _names(folder) if one.lower() == name.lower()), None)
            return FileSeen(real_name=alike) if alike else FileSeen(missing=True)
        return _read(file)


def _names(folder: Path) -> list[str]:
    return os.listdir(folder) if folder.is_dir() else []  # noqa: PTH208 - names are all that counts


def _read(file: Path) -> FileSeen:
    from PIL import Image, UnidentifiedImageError  # noqa: PLC0415 - slow to load

    try:
        with Image.open(file) as image:
            return FileSeen(*image.size, Image.MIME.get(image.format or "", ""))
    except (OSError, UnidentifiedImageError, ValueError):
        return FileSeen()
