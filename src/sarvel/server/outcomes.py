"""Outcomes of a request for a file: it is sent, it is elsewhere now, or it does not exist."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeAlias

from sarvel.core.address.on_request import Asked
from sarvel.server.answers import CachedFile


@dataclass(frozen=True)
class Sent:
    """A file to send.

    Attributes:
        source: where it was: "memory", "disk" or "made".
        varies: whether the address serves other formats, too.
    """

    entry: CachedFile
    source: str
    varies: bool


@dataclass(frozen=True)
class Moved:
    """An address of an earlier plan or master.

    Attributes:
        now: the words of the address that replaces it today.
    """

    now: Asked


@dataclass(frozen=True)
class Refused:
    """Nothing can be sent.

    Attributes:
        source: why, in a word for counts.
        retry: s after which it may be tried again; 0 for never.
    """

    status: int
    source: str
    why: str
    retry: int = 0


Outcome: TypeAlias = Sent | Moved | Refused

NOT_SEALED = Refused(404, "seal", "there is no such picture")
GONE = Refused(404, "gone", "this picture is no longer there")
