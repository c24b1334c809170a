"""The work to do: files of an Edition that are missing, or were changed by others."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from sarvel.core.edition.compose import Edition
from sarvel.core.edition.rendition import Rendition
from sarvel.press.atomic import content_digest
from sarvel.press.ledger import Ledger, MadeFile
from sarvel.press.ledger_entries import known_numbers, known_placeholders
from sarvel.press.output_folder import standing
from sarvel.press.work import MasterWork, plan_work


@dataclass(frozen=True)
class Todo:
    """The work of one run of the press.

    Attributes:
        works: one for each master that something is to be made of, in the order of the work.
        copies: files that hold the same as another one, each with that: a master was renamed, or two slots crop alike.
        kept: how many files stand there already.
        altered: names of files that stand there, and are not what was written: they are made again.
    """

    works: list[MasterWork]
    copies: Mapping[Rendition, str]
    kept: int
    altered: Sequence[str] = ()

    @property
    def count(self) -> int:
        """The number of files to write."""
        return sum(work.count for work in self.works) + len(self.copies)


def work_to_do(
    edition: Edition,
    masters_folder: Path,
    output: Path,
    ledger: Ledger,
    *,
    force: bool = False,
    verify: bool = False,
) -> Todo:
    """Works out what is missing.

    A file's name holds a digest of all that it was made from, and files are written whole: one that stands there is right,
    unless somebody else changed it.

    Args:
        edition: what is to be there: settled, as far as weights are known.
        masters_folder: where masters are.
        output: where renditions go.
        ledger: what is known already.
        force: whether to make what stands there, too.
        verify: whether to compare the contents of what stands there with what was written, not only its size.
    """
    sizes = {} if force else standing(output)
    wanted = {one.name: one for picture in edition.pictures.values() for one in picture.renditions()}
    known = ledger.files()
    altered = _altered({name: sizes[name] for name in wanted if name in sizes}, known, output, verify=verify)
    there = sizes.keys() - altered
    absent = [one for name, one in wanted.items() if name not in there]
    alike = {known[name].fingerprint: name for name in sorted(there & known.keys())} if absent else {}
    missing: set[str] = set()
    copies: dict[Rendition, str] = {}
    for one in absent:
        first = alike.setdefault(one.fingerprint, one.name)
        if first == one.name:
            missing.add(one.name)
        else:
            copies[one] = first
    numbers, shown = known_numbers(ledger, edition), set(known_placeholders(ledger, edition))
    works = plan_work(edition, masters_folder, output, missing, numbers, shown)
    return Todo(works, copies, len(there & wanted.keys()), sorted(altered))


def _altered(sizes: Mapping[str, int], known: Mapping[str, MadeFile], output: Path, *, verify: bool) -> set[str]:
    """Names of files that are not what was written, going by their sizes; with `verify` also by their contents."""
    altered = {name for name, size in sizes.items() if size == 0 or (name in known and known[name].size != size)}
    if verify:
        for name in sizes.keys() - altered:
            with contextlib.suppress(OSError):
                if name in known and content_digest((output / name).read_bytes()) == known[name].content:
                    continue
            altered.add(name)
    return altered


def placeholders_to_do(edition: Edition, masters_folder: Path, output: Path, ledger: Ledger) -> Todo:
    """The work on placeholders that are missing, and on nothing else."""
    shown = set(known_placeholders(ledger, edition))
    return Todo(plan_work(edition, masters_folder, output, set(), {}, shown), {}, 0)
