"""What a proof says of a master."""

from __future__ import annotations

from typing import NamedTuple

from sarvel.core.crop.place import Box


class ProofNotes(NamedTuple):
    """What to say of a master.

    Attributes:
        about: of its subject, in a few words; "" for nothing.
        trouble: the problem in a few words, or "".
        loses: whether that is a lost subject.
        guesses: possible subjects, in fractions, shown with numbers.
    """

    about: str
    trouble: str
    loses: bool
    guesses: tuple[Box, ...]
