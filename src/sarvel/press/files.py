"""Files written whole or not at all."""

from __future__ import annotations

import contextlib
import os
import tempfile
from pathlib import Path

from sarvel.errors import OutputError

PART = ".sarvel-"
"""What the names of files begin with that are still being written."""


def write_whole(path: Path, content: bytes, mode: int | None = None) -> None:
    """Writes a file beside its place and renames it into it, so that nobody ever reads half of it.

    Args:
        path: the file; its folder is made if need be.
        content: all of it.
        mode: its permissions; None leaves them to the system's default.

    Raises:
        OutputError: it cannot be written. What stood there before still stands.
    """
    part: Path | None = None
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, name = tempfile.mkstemp(prefix=PART, dir=path.parent)
        part = Path(name)
        with os.fdopen(handle, "wb") as file:
            file.write(content)
            file.flush()
            os.fsync(file.fileno())
        part.chmod(_default_mode() if mode is None else mode)
        part.replace(path)
    except OSError as error:
        raise OutputError(
            f"{path}: cannot be written ({error.strerror}); check the folder's permissions and free space"
        ) from error
    finally:
        if part:
            with contextlib.suppress(OSError):
                part.unlink(missing_ok=True)


def _default_mode() -> int:
    """What the system gives new files: mkstemp gives less, and a web server could not read it."""
    mask = os.umask(0)
    os.umask(mask)
    return 0o666 & ~mask
