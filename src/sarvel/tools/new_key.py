"""A new key for sealed addresses, placed before the earlier ones."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

from sarvel.files.atomic import write_whole
from sarvel.plan.seal_keys import private_text

_BYTES = 32  # as many as the hash has: RFC 2104, section 3


def with_new_key(file: Path) -> int:
    """Puts a new key before those of a file, which is created if it is missing, for its owner only.

    Returns:
        How many keys it holds now.

    Raises:
        PlanError: others may read it, or it cannot be read.
        OutputError: it cannot be written.
    """
    before = private_text(file) if file.exists() else ""
    text = f"{secrets.token_urlsafe(_BYTES)}\n{before}"
    mask = os.umask(0o077)
    try:
        write_whole(file, text.encode())
    finally:
        os.umask(mask)
    return sum(1 for line in text.splitlines() if line.strip() and not line.startswith("#"))
