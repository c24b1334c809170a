"""Files written whole or not at all."""

from __future__ import annotations

import contextlib
import hashlib
import os
import stat
import tempfile
from collections.abc import Callable
from pathlib import Path

from sarvel.errors import OutputError

PART = ".sarvel-"
"""The beginning of the names of files that are still being written."""


def sweep(folder: Path) -> None:
    """Removes what runs that were killed had begun to write; nobody else may be writing in the folder."""
    with contextlib.suppress(OSError):  # who may not look into it has left nothing there
        with os.scandir(folder) as entries:  # of a million files, of which a glob would make a list
            parts = [Path(entry.path) for entry in entries if entry.name.startswith(PART)]
        for part in parts:
            part.unlink(missing_ok=True)


def write_whole(
    path: Path, content: bytes, like: os.stat_result | None = None, still: Callable[[], bool] = lambda: True
) -> bool:
    """Writes a file beside its place and renames it into it, so that nobody ever reads half of it.

    Args:
        path: the file; its folder is made if need be.
        content: all of it.
        like: whose owner and permissions it takes, as of an author's file: then a link in its place is written through to
            the file that it leads to. None leaves them to the system's default, and replaces a link.
        still: asked just before the file takes its place; where it says no, nothing is written.

    Returns:
        Whether it was written.

    Raises:
        OutputError: it cannot be written. What stood there before still stands.
    """
    part: Path | None = None
    try:
        path = path.resolve() if like is not None and path.is_symlink() else path
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
        raise OutputError(
            f"{path}: cannot be written ({error.strerror}); check the folder's permissions and free space"
        ) from error
    finally:
        if part:
            with contextlib.suppress(OSError):
                part.unlink(missing_ok=True)
    return written


def holds(path: Path, content: bytes) -> Callable[[], bool]:
    """A function that tells whether a file holds exactly these bytes at the moment of the call."""

    def asked() -> bool:
        try:
            return path.stat().st_size == len(content) and path.read_bytes() == content
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
