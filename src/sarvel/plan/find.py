"""Finding the plan file; apart from reading it, which takes libraries that are slow to load."""

from __future__ import annotations

from pathlib import Path

from sarvel.errors import PlanError

FILE_NAME = "sarvel.toml"


def find_plan(start: Path) -> Path:
    """The nearest sarvel.toml, in this folder or above it, as seen from this folder.

    Raises:
        PlanError: there is none.
    """
    for ups, folder in enumerate((start, *start.parents)):
        if (folder / FILE_NAME).is_file():
            return Path(*[".."] * ups, FILE_NAME)
    raise PlanError(f"{start}: no {FILE_NAME} here or in any folder above; write one, or name it with --plan FILE")
