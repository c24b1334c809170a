"""Files at hand that a page names. Only headers are read, each once."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from sarvel.core.check.context import LinkedFile
from sarvel.core.css.sheet import Sheet, read_sheet
from sarvel.core.html.images import is_file_name
from sarvel.pages.read.local_files import is_file, is_folder, path_of
from sarvel.pages.read.roots import Roots, file_of


@dataclass
class Looked:
    """The files that were looked at in one run, for pages share them.

    Attributes:
        read: reads the header of an image file.
        missing: places where a file was expected.
    """

    read: Callable[[Path], LinkedFile]
    files: dict[Path, LinkedFile] = field(default_factory=dict)
    sheets: dict[Path, Sheet] = field(default_factory=dict)
    missing: set[Path] = field(default_factory=set)


class LinkedFiles:
    """Finds the files of addresses in a page or a stylesheet."""

    def __init__(self, roots: Roots, looked: Looked) -> None:
        """Begins to look.

        Args:
            roots: where the files of the page may lie.
            looked: files looked at before in this run; more are added.
        """
        self._roots, self._looked = roots, looked
        self._known: dict[str, LinkedFile | None] = {}

    def __call__(self, address: str) -> LinkedFile | None:
        """The file of an address; None for external addresses, and for what a template engine writes."""
        if not address:
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
        """The path of an address; None if it is not at hand."""
        return file_of(address, self._roots)[0] if address else None

    def _look(self, address: str) -> LinkedFile | None:
        file, missing = file_of(address, self._roots)
        if file is not None:
            known = self._looked.files
            if file not in known:
                known[file] = self._looked.read(file)
            return known[file]
        if missing is None:
            return None
        self._looked.missing.add(missing)
        alike = _in_other_case(missing)
        if alike:
            return LinkedFile(real_name=alike.as_posix())
        roots = self._roots
        beside = path_of(address) if roots.base is not None and not address.startswith("/") else None
        if beside and is_file(roots.page / beside):
            return LinkedFile(missing=True, base=roots.base or "")
        stem = missing.name.rpartition(".")[0] or missing.name
        alike_named = (one for one in sorted(_names(missing.parent)) if one.rpartition(".")[0] == stem)
        near = next((one for one in alike_named if is_file_name(one) or "." not in one), "")
        return LinkedFile(missing=True, near=near)


def _in_other_case(missing: Path) -> Path | None:
    """The end of a path from where it first differs in letter case from existing files; None if it differs in more."""
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
