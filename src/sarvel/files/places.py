"""Where a path really is, links followed."""

from __future__ import annotations

import os
from collections.abc import Iterable

WELL_KNOWN = ".well-known"
"""The one hidden folder that is meant to be read: RFC 8615."""


def real_places(places: Iterable[str | os.PathLike[str]]) -> list[str]:
    """Where places really are, each once."""
    return sorted({os.path.realpath(place) for place in places})


def is_within(real: str | os.PathLike[str], tops: Iterable[str]) -> bool:
    """Tells whether a place is one of some folders, or below one; of both it is stated where they really are."""
    name = os.fspath(real)
    return any(name == top or name.startswith(top.rstrip(os.sep) + os.sep) for top in tops)
