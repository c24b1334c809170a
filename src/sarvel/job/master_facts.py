"""Facts about masters, as compose needs them: from their files, or from the ledger for files not touched since."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from sarvel.core.facts import FoundSubject, MasterFacts
from sarvel.core.model import Master
from sarvel.errors import MasterError
from sarvel.pages.local_files import is_file
from sarvel.plan.read import Plan
from sarvel.press.ledger import Ledger
from sarvel.press.ledger_entries import known_subject, remember_subject
from sarvel.press.masters import read_facts


def facts_of_masters(
    plan: Plan, keys: Iterable[str], ledger: Ledger
) -> tuple[dict[str, MasterFacts], dict[str, MasterError]]:
    """Reads masters.

    Returns:
        Facts by key; and why masters could not be read, by key.
    """
    facts: dict[str, MasterFacts] = {}
    unreadable: dict[str, MasterError] = {}
    for key in keys:
        try:
            facts[key] = facts_of_master(plan, key, ledger)
            if plan.masters.get(key, Master()).find:
                facts[key] = replace(facts[key], found=subject_of(plan, facts[key], ledger))
        except MasterError as error:
            unreadable[key] = error
    return facts, unreadable


def facts_of_master(plan: Plan, key: str, ledger: Ledger) -> MasterFacts:
    """Reads one master.

    Raises:
        MasterError: it is missing, unreadable or no image.
    """
    file = plan.masters_folder / key
    stat = file.stat() if is_file(file) else None
    facts = ledger.master(file, stat, key) if stat else None
    if facts is None:
        facts = read_facts(file, key)
        if stat:
            ledger.remember_master(file, stat, facts)
    return facts


def subject_of(plan: Plan, facts: MasterFacts, ledger: Ledger) -> FoundSubject:
    """Finds the subject of a master in its pixels, once: the ledger remembers it.

    Raises:
        MasterError: it cannot be decoded, or was changed since its facts were read.
    """
    found = known_subject(ledger, facts.digest)
    if found is None:
        from sarvel.core.pixels.subject import find_subject  # slow to load, and few plans ask for it
        from sarvel.press.decode import read_pixels

        found = find_subject(read_pixels(plan.masters_folder / facts.key, facts.key, facts.digest))
        remember_subject(ledger, facts.digest, found)
    return found
