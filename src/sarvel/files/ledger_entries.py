"""Entries of the ledger: results that cost time, each kind under keys of its own."""

from __future__ import annotations

import json
import statistics
from collections.abc import Iterable, Iterator, Mapping

from sarvel.core.crop.place import Box
from sarvel.core.edition.compose import Edition
from sarvel.core.edition.encoding import EncoderNumbers, QualitySearch
from sarvel.core.edition.settle import Unpaid
from sarvel.core.facts import FoundSubject
from sarvel.core.model import Effort
from sarvel.files.ledger import Ledger

_PACE = "pace"
_EFFORTS = "efforts"
_NUMBERS = "numbers"
_UNPAID = "unpaid "
_WRITTEN = "written "
_MOST_NUMBERS = 99  # for a median


def search_key(key: str) -> str:
    """The key of the encoder's numbers that a search came to."""
    return f"quality {key}"


def placeholder_key(key: str) -> str:
    """The key of a placeholder."""
    return f"placeholder {key}"


def as_finding(numbers: EncoderNumbers) -> str:
    """Encoder's numbers as the ledger keeps them."""
    return json.dumps([[width, number, round(likeness, 3)] for width, number, likeness in numbers.points])


def known_numbers(ledger: Ledger, edition: Edition) -> dict[str, EncoderNumbers]:
    """The encoder's numbers that were found before, by the key of their search."""
    said = ledger.findings(search_key(search.key) for search in _searches(edition))
    return {search.key: _numbers(said[key]) for search in _searches(edition) if (key := search_key(search.key)) in said}


def known_number(ledger: Ledger, search: QualitySearch) -> EncoderNumbers | None:
    """The encoder's numbers that a search came to before; None if there was none."""
    said = ledger.finding(search_key(search.key))
    return _numbers(said) if said else None


def _numbers(said: str) -> EncoderNumbers:
    return EncoderNumbers(tuple((width, number, alike) for width, number, alike in json.loads(said)))


def written_there(ledger: Ledger, place: str) -> str | None:
    """The digest of the page or side file that a run last wrote in a place, "" if unknown; None if none wrote any there."""
    return ledger.finding(_WRITTEN + place)


def remember_written(ledger: Ledger, digests: Mapping[str, str]) -> None:
    """Keeps the digests of pages and side files that a run writes, by place as seen from the plan's folder."""
    said = {_WRITTEN + place: digest for place, digest in digests.items()}
    known = ledger.findings(said)
    ledger.remember([], {key: digest for key, digest in said.items() if known.get(key) != digest})


def typical_number(ledger: Ledger, kind: str) -> int | None:
    """The median of the encoder's numbers that searches of a kind came to lately; None if there were none."""
    said = ledger.finding(f"{_NUMBERS} {kind}")
    return round(statistics.median(json.loads(said))) if said else None


def remember_number(ledger: Ledger, kind: str, number: int) -> None:
    """Keeps the encoder's number that a search of a kind came to, next to some others."""
    said = ledger.finding(f"{_NUMBERS} {kind}")
    numbers = [*(json.loads(said) if said else []), number][-_MOST_NUMBERS:]
    ledger.remember([], {f"{_NUMBERS} {kind}": json.dumps(numbers)})


def unpaid_finding(key: str, simpler: str, weight: int, other: int) -> dict[str, str]:
    """What the ledger keeps of a format that was found out early.

    Args:
        simpler: the format that it was compared with.
        weight: bytes of its files that were tried.
        other: bytes of the other one's.
    """
    return {f"{_UNPAID}{key}": json.dumps([simpler, weight, other])}


def known_unpaid(ledger: Ledger, edition: Edition) -> Unpaid:
    """The formats of an Edition that were found out early."""
    found = ledger.findings(f"{_UNPAID}{search.key}" for search in _searches(edition)).items()
    return {key.removeprefix(_UNPAID): tuple(json.loads(said)) for key, said in found}


def known_placeholders(ledger: Ledger, edition: Edition) -> dict[str, str]:
    """The backgrounds of all placeholders of an Edition that are known, by key."""
    keys = {crop.placeholder.key for _, crop in edition.crops() if crop.placeholder and crop.placeholder.key}
    said = ledger.findings(map(placeholder_key, keys))
    return {key: said[placeholder_key(key)] for key in sorted(keys) if placeholder_key(key) in said}


def _searches(edition: Edition) -> Iterator[QualitySearch]:
    for _, crop in edition.crops():
        for ladder in crop.renditions.values():
            if ladder[0].encoding.search:
                yield ladder[0].encoding.search


def known_subject(ledger: Ledger, digest: str) -> FoundSubject | None:
    """The subject that was found in a master before; None if no one looked.

    Args:
        digest: of the master's bytes.
    """
    said = ledger.finding(_subject_key(digest))
    if said is None:
        return None
    sure, box, *others = json.loads(said)
    return FoundSubject(Box(*box), sure, tuple(Box(*other) for other in others))


def remember_subject(ledger: Ledger, digest: str, found: FoundSubject) -> None:
    """Keeps the subject that was found in a master of that digest."""
    boxes = [box.edges for box in (found.box, *found.others)]
    ledger.remember([], {_subject_key(digest): json.dumps([found.sure, *boxes])})


def _subject_key(digest: str) -> str:
    return f"subject 4 {digest}"


def known_efforts(ledger: Ledger) -> set[Effort]:
    """The efforts that files were ever made with."""
    said = ledger.finding(_EFFORTS)
    return set(json.loads(said)) if said else set()


def remember_efforts(ledger: Ledger, efforts: Iterable[Effort]) -> None:
    """Keeps the efforts that files are made with."""
    known = known_efforts(ledger)
    if not known.issuperset(efforts := set(efforts)):
        ledger.remember([], {_EFFORTS: json.dumps(sorted(known | efforts))})


def known_pace(ledger: Ledger, effort: Effort) -> float | None:
    """Seconds that a worker took for a pixel in the last run of an effort; None if there was none."""
    said = ledger.finding(f"{_PACE} {effort}")
    return None if said is None else float(json.loads(said))


def remember_pace(ledger: Ledger, effort: Effort, seconds: float) -> None:
    """Keeps the seconds that a worker took for a pixel."""
    ledger.remember([], {f"{_PACE} {effort}": json.dumps(seconds)})
