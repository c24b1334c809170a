"""Finding the plan file; apart from reading it, which takes libraries that are slow to load."""

from __future__ import annotations

from pathlib import Path

from sarvel.errors import PlanError

FILE_NAME = "sarvel.toml"


def find_plan(start: Path) -> Path:
    """The nearest sarvel.toml, in this folder or above it, as seen from this folder.

    Raises:
        PlanError: there is no plan.
    """
    found = nearest_plan(start)
    if found is None:
        raise PlanError.at(
            start,
            f"no {FILE_NAME} here or in any folder above",
            "run sarvel start to draft one, or name it with --plan FILE",
        )
    return found


def nearest_plan(start: Path) -> Path | None:
    """The nearest sarvel.toml, in this folder or above it, as seen from this folder; or None."""
    folders = enumerate((start, *start.parents))
    return next((Path(*[".."] * ups, FILE_NAME) for ups, folder in folders if (folder / FILE_NAME).is_file()), None)
