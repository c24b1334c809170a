"""Files written whole or not at all."""

from __future__ import annotations

import contextlib
import hashlib
import os
import stat
import tempfile
from collections.abc import Callable
from pathlib import Path

from sarvel.errors import OutputError, cure_of
from sarvel.files.places import is_within, real_places
from sarvel.files.writers import is_held

PART = ".sarvel-"
"""The beginning of the names of files that are still being written."""


def sweep(folder: Path) -> None:
    """Removes what runs that were killed had begun to write; no one else may be writing in the folder."""
    with contextlib.suppress(OSError):  # who may not look into it has left nothing there
        with os.scandir(folder) as entries:  # a glob would make a list of a million files
            parts = [Path(entry.path) for entry in entries if entry.name.startswith(PART)]
        for part in parts:
            part.unlink(missing_ok=True)


def write_whole(
    path: Path,
    content: bytes,
    like: os.stat_result | None = None,
    still: Callable[[], bool] = lambda: True,
    top: Path | None = None,
) -> bool:
    """Writes a file next to its place and renames it into it: no reader ever sees half of it. Follows no link.

    Args:
        path: the file; its folder is created if it is missing. A link in its place is replaced.
        like: the state of the file whose owner and permissions it takes; None takes the system's default.
        still: called just before the file takes its place; if it returns False, nothing is written.
        top: the folder that the file belongs below; None for the one that it is in.

    Returns:
        Whether it was written.

    Raises:
        OutputError: it cannot be written, or a link leads it out of `top`. The file before is kept.
    """
    part: Path | None = None
    try:
        if leads_out(path, top):
            raise OutputError.at(path, f"a link leads it out of {top}, where nothing is written", "remove that link")
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(prefix=PART, dir=path.parent)
        part = Path(name)
        with os.fdopen(handle, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        if like is not None and hasattr(os, "chown"):
            with contextlib.suppress(OSError):  # only an administrator can give files away
                os.chown(part, like.st_uid, like.st_gid)
        part.chmod(_default_mode() if like is None else stat.S_IMODE(like.st_mode))
        if written := still():
            part.replace(path)
    except OSError as error:
        raise OutputError.at(path, f"cannot be written ({error.strerror})", cure_of(error)) from error
    finally:
        if part:
            with contextlib.suppress(OSError):
                part.unlink(missing_ok=True)
    return written


def leads_out(path: Path, top: Path | None) -> bool:
    """Tells whether a linked folder leads a file out of the folder that it belongs below; None for the one that it is in."""
    if top is None or path.parent == top:
        return False
    return not is_within(os.path.realpath(path.parent), real_places([top]))


def holds(path: Path, content: bytes) -> Callable[[], bool]:
    """A function that tells whether a file holds exactly these bytes when it is called, and no other program writes it."""

    def asked() -> bool:
        try:
            return path.stat().st_size == len(content) and path.read_bytes() == content and not is_held(path)
        except OSError:
            return False

    return asked


def content_digest(content: bytes) -> str:
    """The digest by which the bytes of a file are known, in hexadecimal."""
    return hashlib.blake2b(content).hexdigest()


def _default_mode() -> int:
    """The permissions of new files: mkstemp gives less, and a web server could not read them."""
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask
