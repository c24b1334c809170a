"""The folder of renditions: what stands in it, what it weighs, and what is taken out of it."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Container, Iterable
from pathlib import Path

from sarvel.core.edition.compose import Edition
from sarvel.errors import OutputError
from sarvel.press.ledger import Ledger


def standing(output: Path) -> dict[str, int]:
    """The files in the output folder: bytes by name.

    Raises:
        OutputError: it cannot be read.
    """
    try:
        with os.scandir(output) as entries:
            return {entry.name: entry.stat().st_size for entry in entries if entry.is_file()}
    except (FileNotFoundError, NotADirectoryError):
        return {}
    except OSError as error:
        raise OutputError(f"{output}: cannot be read ({error.strerror}); check its permissions") from error


def weights_of(edition: Edition, output: Path, ledger: Ledger) -> dict[str, int]:
    """Bytes of renditions, by name, as far as they are known: under this name or another of the same fingerprint."""
    known = ledger.files()
    alike = {file.fingerprint: file.size for file in known.values()}
    there: dict[str, int] | None = None
    weights: dict[str, int] = {}
    for picture in edition.pictures.values():
        for one in picture.renditions():
            size = known[one.name].size if one.name in known else alike.get(one.fingerprint)
            if size is None:
                there = standing(output) if there is None else there
                size = there.get(one.name)
            if size is not None:
                weights[one.name] = size
    return weights


def remove(names: Iterable[str], output: Path) -> None:
    """Takes files, such as those of formats that do not pay, out of the output folder; one that cannot be removed stays."""
    for name in names:
        with contextlib.suppress(OSError):
            (output / name).unlink(missing_ok=True)


def prune(edition: Edition, output: Path, ledger: Ledger, named: Container[str]) -> list[str]:
    """Removes renditions that are not of the Edition any more; only files that the ledger knows as its own.

    Args:
        edition: what is to be there.
        output: where renditions are.
        ledger: what was made before.
        named: files that pages still name; they stay.

    Returns:
        Their names.

    Raises:
        OutputError: one cannot be removed.
    """
    wanted = {one.name for picture in edition.pictures.values() for one in picture.renditions()}
    ours = ledger.files()
    gone = sorted(name for name in standing(output) if name in ours and name not in wanted and name not in named)
    for name in gone:
        try:
            (output / name).unlink(missing_ok=True)
        except OSError as error:
            raise OutputError(
                f"{output / name}: cannot be removed ({error.strerror}); check the folder's permissions"
            ) from error
    return gone
