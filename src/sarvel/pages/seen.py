"""What the files that a page names are, as far as they are at hand: only their headers are read, and each once."""

from __future__ import annotations

import os
from dataclasses import dataclass, field
from pathlib import Path

from sarvel.core.check.given import FileSeen
from sarvel.core.css.sheet import Sheet, read_sheet
from sarvel.core.facts import READ_FORMATS
from sarvel.core.html.code import holds_code
from sarvel.pages.at_hand import Roots, file_of, is_folder


@dataclass(frozen=True)
class Looked:
    """What was looked at in one run: pages share files and stylesheets."""

    files: dict[Path, FileSeen] = field(default_factory=dict)
    sheets: dict[Path, Sheet] = field(default_factory=dict)


class FilesSeen:
    """Answers what an address of a page, or of a stylesheet, leads to."""

    def __init__(self, roots: Roots, looked: Looked) -> None:
        """Begins to look.

        Args:
            roots: where the files of the page may lie.
            looked: what was looked at before, in this run.
        """
        self._roots, self._looked = roots, looked
        self._known: dict[str, FileSeen | None] = {}

    def __call__(self, address: str) -> FileSeen | None:
        """The file of an address; None if it is elsewhere, or what a template engine writes."""
        if not address or holds_code(address):
            return None
        if address not in self._known:
            self._known[address] = self._look(address)
        return self._known[address]

    def sheet(self, address: str) -> Sheet | None:
        """The stylesheet of an address; None if it is not at hand."""
        file = self.file(address)
        if file is None:
            return None
        known = self._looked.sheets
        if file not in known:
            try:
                known[file] = read_sheet(file.read_bytes().decode("utf-8-sig", "replace"))
            except OSError:
                return None
        return known[file]

    def file(self, address: str) -> Path | None:
        """The file of an address; None if it is not at hand."""
        return None if not address or holds_code(address) else file_of(address, self._roots)[0]

    def _look(self, address: str) -> FileSeen | None:
        file, missing = file_of(address, self._roots)
        if file is not None:
            known = self._looked.files
            if file not in known:
                known[file] = read_file(file)
            return known[file]
        if missing is None:
            return None
        alike = _in_other_case(missing)
        if alike:
            return FileSeen(real_name=alike.as_posix())
        stem = missing.name.rpartition(".")[0] or missing.name
        near = next((one for one in sorted(_names(missing.parent)) if one.rpartition(".")[0] == stem), "")
        return FileSeen(missing=True, near=near)


def _in_other_case(missing: Path) -> Path | None:
    """The end of a path, from where it first differs in letter case alone from what is there; None if it differs otherwise."""
    there = next(folder for folder in missing.parents if is_folder(folder))
    place, found = there, []
    for name in missing.relative_to(there).parts:
        alike = next((one for one in _names(place) if one.lower() == name.lower()), None)
        if alike is None:
            return None
        place = place / alike
        found.append(alike)
    return Path(*found)


def _names(folder: Path) -> list[str]:
    try:
        return os.listdir(folder)  # noqa: PTH208 - names are all that counts
    except (OSError, ValueError):
        return []


def read_file(file: Path) -> FileSeen:
    """What an image file is, going by its header."""
    from PIL import Image, UnidentifiedImageError  # noqa: PLC0415 - slow to load

    try:
        weight = file.stat().st_size
        Image.init()
        formats = [name for name in READ_FORMATS if name in Image.OPEN]
        with Image.open(file, formats=formats) as image:
            return FileSeen(*image.size, Image.MIME.get(image.format or "", ""), weight=weight)
    except UnidentifiedImageError:
        return FileSeen(weight=weight)
    except (OSError, ValueError):
        return FileSeen()
