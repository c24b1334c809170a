"""Facts about a master as the ledger keeps them: JSON, without the name that the plan has for it."""

from __future__ import annotations

import json
from dataclasses import asdict

from sarvel.core.crop.place import Box
from sarvel.core.facts import MasterFacts, NamedSubject

_NOT_KEPT = ("key", "found")  # its name; and its guess, which is a finding of its own


def facts_as_text(facts: MasterFacts) -> str:
    """Facts that were read of a master's file, as a text."""
    return json.dumps({name: value for name, value in asdict(facts).items() if name not in _NOT_KEPT})


def facts_of_text(text: str, key: str) -> MasterFacts | None:
    """The facts of a text; None if an earlier version wrote it, which did not read the subject.

    Args:
        key: what the plan calls the master now.
    """
    said = json.loads(text)
    if "named" not in said:
        return None
    named = said["named"] and NamedSubject(
        tuple(Box(**box) for box in said["named"]["boxes"]), said["named"]["by"], said["named"]["sure"]
    )
    return MasterFacts(**{**said, "key": key, "remarks": tuple(said["remarks"]), "named": named})
