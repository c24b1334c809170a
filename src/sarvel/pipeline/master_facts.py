"""Facts about masters, as compose needs them: from their files, or from the ledger for files not touched since."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import replace

from sarvel.core.facts import FoundSubject, MasterFacts
from sarvel.core.model import Master
from sarvel.encode.masters import read_facts
from sarvel.errors import MasterError
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_entries import known_subject, remember_subject
from sarvel.pipeline.plan_folders import MastersFolder
from sarvel.pipeline.subjects import SubjectTask, find_subjects
from sarvel.plan.read import Plan
from sarvel.workers.cores import available_workers


def facts_of_masters(
    plan: Plan, masters: MastersFolder, keys: Iterable[str], ledger: Ledger
) -> tuple[dict[str, MasterFacts], dict[str, MasterError]]:
    """Reads masters.

    Returns:
        Facts by key; and why masters could not be read, by key.
    """
    facts: dict[str, MasterFacts] = {}
    unreadable: dict[str, MasterError] = {}
    for key in keys:
        try:
            facts[key] = with_import(plan, facts_of_master(masters, key, ledger))
        except MasterError as error:
            unreadable[key] = error
    asked = [one for key, one in facts.items() if plan.masters.get(key, Master()).find and not one.named]
    for key, found in subjects_of(masters, asked, ledger):
        if isinstance(found, MasterError):
            unreadable[key] = found
            del facts[key]
        else:
            facts[key] = replace(facts[key], found=found)
    return facts, unreadable


def facts_of_master(masters: MastersFolder, key: str, ledger: Ledger) -> MasterFacts:
    """Reads one master.

    Raises:
        MasterError: it is missing, unreadable or no image.
    """
    stamp, place = masters.stamp(key), masters.place(key)
    facts = ledger.master(place, stamp, key) if stamp else None
    if facts is None:
        facts = read_facts(masters.file(key), key)
        if stamp:
            ledger.remember_master(place, stamp, facts)
    return facts


def with_import(plan: Plan, facts: MasterFacts) -> MasterFacts:
    """Facts of a master with the subject that the plan's file of subjects names, if neither the plan nor its metadata does.

    Raises:
        MasterError: that lies outside of the master.
    """
    if facts.named or not plan.subjects or plan.masters.get(facts.key, Master()).subjects:
        return facts
    return replace(facts, named=plan.subjects.of(facts.key, facts.width, facts.height))


def subjects_of(
    masters: MastersFolder, facts: Iterable[MasterFacts], ledger: Ledger
) -> Iterator[tuple[str, FoundSubject | MasterError]]:
    """Finds the subjects of masters in their pixels, each once: the ledger remembers them.

    Returns:
        By key; an error if a master cannot be decoded, or was changed since its facts were read.
    """
    looks = []
    for one in facts:
        known = known_subject(ledger, one.digest)
        if known:
            yield one.key, known
        else:
            looks.append(SubjectTask(one.key, masters.file(one.key), one.digest))
    for look, found in find_subjects(looks, available_workers()):
        if isinstance(found, FoundSubject):
            remember_subject(ledger, look.digest, found)
        yield look.key, found
