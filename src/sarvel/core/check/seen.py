"""What is known of the files that a page names."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TypeAlias


@dataclass(frozen=True)
class FileSeen:
    """A file that an address leads to.

    Attributes:
        width: px; 0 if it is missing or no image that can be read.
        height: px; 0 as well.
        type: its media type, going by its content; "" as well.
        missing: whether it ought to be at hand and is not.
        real_name: its name, if that differs in letter case from the address; else "".
    """

    width: int = 0
    height: int = 0
    type: str = ""
    missing: bool = False
    real_name: str = ""


Seen: TypeAlias = Callable[[str], FileSeen | None]
"""What is known of an address; None if nothing can be, as of another site's, or of what a template engine will write."""


def nothing_seen(_address: str) -> None:
    """For a page whose files are not at hand."""
