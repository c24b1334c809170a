"""What is found at some cost and kept in the ledger: under which key, and read back."""

from __future__ import annotations

import json
from collections.abc import Iterator

from sarvel.core.edition import Edition
from sarvel.core.rendition import Tuning
from sarvel.press.ledger import Ledger
from sarvel.press.numbers import Numbers


def tuning_key(key: str) -> str:
    """Where the ledger keeps the encoder's number of a tuning."""
    return f"quality {key}"


def placeholder_key(key: str) -> str:
    """Where the ledger keeps a placeholder."""
    return f"placeholder {key}"


def as_finding(numbers: Numbers) -> str:
    """Encoder's numbers as the ledger keeps them."""
    return json.dumps([[width, number, round(likeness, 3)] for width, number, likeness in numbers.points])


def numbers_found(ledger: Ledger, edition: Edition) -> dict[str, Numbers]:
    """The encoder's numbers that were found before, by the key of their tuning."""
    found = ((tuning.key, ledger.finding(tuning_key(tuning.key))) for tuning in _tunings(edition))
    return {key: Numbers(tuple((w, n, alike) for w, n, alike in json.loads(said))) for key, said in found if said}


def placeholders_found(ledger: Ledger, edition: Edition) -> dict[str, str]:
    """The backgrounds of all placeholders of an Edition that are known, by key."""
    keys = {cut.placeholder.key for _, cut in edition.cuts() if cut.placeholder and cut.placeholder.key}
    found = ((key, ledger.finding(placeholder_key(key))) for key in sorted(keys))
    return {key: said for key, said in found if said is not None}


def _tunings(edition: Edition) -> Iterator[Tuning]:
    for _, cut in edition.cuts():
        for ladder in cut.renditions.values():
            if ladder[0].encoding.tuning:
                yield ladder[0].encoding.tuning
