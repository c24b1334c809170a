"""Facts about masters, as compose needs them: from their files, or from the ledger for files not touched since."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace

from sarvel.core.facts import FoundSubject, MasterFacts
from sarvel.core.model import Master
from sarvel.errors import MasterError
from sarvel.pages.local_files import is_file
from sarvel.plan.read import Plan
from sarvel.press.cores import available_workers
from sarvel.press.ledger import Ledger
from sarvel.press.ledger_entries import known_subject, remember_subject
from sarvel.press.masters import read_facts
from sarvel.press.subjects import Look, find_subjects


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
        except MasterError as error:
            unreadable[key] = error
    asked = [one for key, one in facts.items() if plan.masters.get(key, Master()).find]
    for key, found in subjects_of(plan, asked, ledger):
        if isinstance(found, MasterError):
            unreadable[key] = found
            del facts[key]
        else:
            facts[key] = replace(facts[key], found=found)
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


def subjects_of(
    plan: Plan, masters: Iterable[MasterFacts], ledger: Ledger
) -> Iterator[tuple[str, FoundSubject | MasterError]]:
    """Finds the subjects of masters in their pixels, each once: the ledger remembers them.

    Returns:
        By key as they are found; an error where a master cannot be decoded, or was changed since its facts were read.
    """
    looks = []
    for one in masters:
        known = known_subject(ledger, one.digest)
        if known:
            yield one.key, known
        else:
            looks.append(Look(one.key, plan.masters_folder / one.key, one.digest))
    for look, found in find_subjects(looks, available_workers()):
        if isinstance(found, FoundSubject):
            remember_subject(ledger, look.digest, found)
        yield look.key, found
