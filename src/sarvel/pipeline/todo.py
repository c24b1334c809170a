"""The work to do: files of an Edition that are missing, or were changed by others."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Container, Mapping, Sequence
from dataclasses import dataclass

from sarvel.core.edition.compose import Edition
from sarvel.core.edition.rendition import Rendition
from sarvel.encode.masters import MasterFile
from sarvel.encode.work import MasterWork, plan_work
from sarvel.files.atomic import content_digest
from sarvel.files.ledger import Ledger, MadeFile
from sarvel.files.ledger_entries import known_numbers, known_placeholders
from sarvel.files.output_folder import OutputFolder


@dataclass(frozen=True)
class Todo:
    """The work of one run of the press.

    Attributes:
        works: one for each master that something is to be made of, in the order of the work.
        copies: files that hold the same as another one, each with that: a master was renamed, or two slots crop the same.
        kept: how many files are there already.
        altered: names of files that others changed: they are made again.
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
    master: Callable[[str], MasterFile],
    output: OutputFolder,
    ledger: Ledger,
    *,
    force: bool = False,
    verify: bool = False,
) -> Todo:
    """Finds missing files.

    A file's name holds a digest of all that it was made from, and files are written whole: one that is there is right,
    unless another program changed it.

    Args:
        edition: the wanted files: settled, as far as weights are known.
        master: tells where a master is, by its key.
        force: whether to make existing files again.
        verify: whether to compare the content of existing files, not only the size.
    """
    wanted = edition.files()
    sizes = {} if force else output.sizes(wanted)
    altered = _altered(sizes, ledger.files(sizes), output, verify=verify)
    there = sizes.keys() - altered
    absent = [one for name, one in wanted.items() if name not in there]
    alike = {} if force else _standing_alike(absent, altered, output, ledger)
    missing: set[str] = set()
    copies: dict[Rendition, str] = {}
    for one in absent:
        first = alike.setdefault(one.fingerprint, one.name)
        if first == one.name:
            missing.add(one.name)
        else:
            copies[one] = first
    numbers, shown = known_numbers(ledger, edition), set(known_placeholders(ledger, edition))
    works = plan_work(edition, master, output.folder, missing, numbers, shown)
    return Todo(works, copies, len(there), sorted(altered))


def _standing_alike(
    absent: Sequence[Rendition], altered: Container[str], output: OutputFolder, ledger: Ledger
) -> dict[str, str]:
    """Names of files that are there and hold what absent ones would, by their fingerprint."""
    found = ledger.alike(one.fingerprint for one in absent)
    sizes = output.sizes(file.name for files in found.values() for file in files)
    return {
        file.fingerprint: file.name
        for files in found.values()
        for file in files
        if sizes.get(file.name) == file.size and file.name not in altered
    }


def _altered(
    sizes: Mapping[str, int], known: Mapping[str, MadeFile], output: OutputFolder, *, verify: bool
) -> set[str]:
    """Names of files that others changed, by their sizes; with `verify` also by their contents."""
    altered = {name for name, size in sizes.items() if size == 0 or (name in known and known[name].size != size)}
    if verify:
        for name in sizes.keys() - altered:
            with contextlib.suppress(OSError):
                if name in known and content_digest(output.read(name)) == known[name].content:
                    continue
            altered.add(name)
    return altered


def placeholders_to_do(
    edition: Edition, master: Callable[[str], MasterFile], output: OutputFolder, ledger: Ledger
) -> Todo:
    """The work on placeholders that are missing, and on nothing else."""
    shown = set(known_placeholders(ledger, edition))
    return Todo(plan_work(edition, master, output.folder, set(), {}, shown), {}, 0)
