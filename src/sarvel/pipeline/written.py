"""The files next to image files that Sarvel wrote: woven pages, copies next to them, side files. No others are replaced.

The ledger knows their places. Where it was lost, or did not come along with a checkout, the content of these files tells.
"""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Sequence
from functools import cached_property
from pathlib import Path

from sarvel.core.edition.fingerprint import IN_NAMES
from sarvel.files.atomic import content_digest
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_entries import remember_written, written_there
from sarvel.plan.read import Plan

# A mark of a woven image, or the name of an image file: only Sarvel writes these.
_MARKS = re.compile(rb"data-(?:woven|master)\b|[-.@][0-9a-f]{%d}\.(?:avif|webp|jpe?g|jxl|png)\b" % IN_NAMES)


class WrittenFiles:
    """The files of a plan that earlier runs wrote."""

    def __init__(self, plan: Plan, ledger: Ledger, woven: Sequence[Path]) -> None:
        """Looks nothing up yet."""
        self._folder, self._ledger, self._woven = plan.folder.absolute(), ledger, woven
        self._masters = os.path.realpath(plan.masters_folder) + os.sep

    def has(self, file: Path) -> bool:
        """Tells whether Sarvel wrote a file."""
        if written_there(self._ledger, self._name(file)) is not None:
            return True
        return not os.path.realpath(file).startswith(self._masters) and (_is_marked(file) or self._is_from_before)

    def is_unchanged(self, file: Path) -> bool:
        """Tells whether a file is as Sarvel wrote it."""
        return written_there(self._ledger, self._name(file)) == _digest(file)

    def add(self, files: Iterable[Path]) -> None:
        """Writes down that these are ours, as they are now."""
        if digests := {self._name(file): _digest(file) for file in files}:
            remember_written(self._ledger, {self._name(self._folder): "", **digests})

    @cached_property
    def _is_from_before(self) -> bool:
        """Whether the woven folder is the work of a run that this ledger does not know."""
        return written_there(self._ledger, self._name(self._folder)) is None and any(map(_is_marked, self._woven))

    def _name(self, file: Path) -> str:
        return os.path.relpath(file.absolute(), self._folder)


def _digest(file: Path) -> str:
    """The digest of a file; "" if it is not there, or is in storage."""
    try:
        return content_digest(file.read_bytes())
    except OSError:
        return ""


def _is_marked(file: Path) -> bool:
    try:
        return file.is_file() and _MARKS.search(file.read_bytes()) is not None
    except OSError:
        return False
