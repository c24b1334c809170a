"""A site as its plan and pages describe it: what every command begins with."""

from __future__ import annotations

import argparse
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from sarvel.core.crop.found import Found
from sarvel.core.edition import Edition, MasterFacts, compose, masters_of
from sarvel.core.plan import Master
from sarvel.errors import MasterError, PageError
from sarvel.pages.files import PageFile, find_pages
from sarvel.pages.weave import Page, read_asks
from sarvel.plan.read import Plan, find_plan, read_plan
from sarvel.press.codecs import CODECS
from sarvel.press.masters import read_facts


@dataclass(frozen=True)
class Site:
    """A plan, its pages, and the Edition that they come to.

    Attributes:
        plan: the plan.
        pages: pages that could be read.
        others: files that belong beside woven pages.
        edition: what is to be made.
        faults: what stands in the way of parts of it, a message each.
    """

    plan: Plan
    pages: tuple[Page, ...]
    others: tuple[PageFile, ...]
    edition: Edition
    faults: tuple[str, ...]

    @property
    def warnings(self) -> tuple[str, ...]:
        """What the user must mend of the pictures, each message once."""
        return self._once(warning for picture in self.edition.pictures.values() for warning in picture.warnings)

    @property
    def notes(self) -> tuple[str, ...]:
        """What the user should know of the pictures, each message once."""
        return self._once(note for picture in self.edition.pictures.values() for note in picture.notes)

    def _once(self, messages: Iterable[str]) -> tuple[str, ...]:
        return tuple(dict.fromkeys(f"{self.plan.file}: {message}" for message in messages))

    def unmade(self) -> set[tuple[str, str]]:
        """Slot and master of pictures whose files are not all there."""
        output = self.plan.output
        standing = {file.name for file in output.iterdir()} if output.is_dir() else set[str]()
        return {
            pair
            for pair, picture in self.edition.pictures.items()
            if any(rendition.name not in standing for rendition in picture.renditions())
        }


def plan_of(options: argparse.Namespace) -> Plan:
    """The plan that the options name, or the nearest.

    Raises:
        PlanError: there is none, or it is wrong.
    """
    return read_plan(Path(options.plan) if options.plan else find_plan(Path.cwd()))


def read_site(plan: Plan, *, digests: bool = True) -> Site:
    """Reads pages and masters and composes the Edition. Faults of single pages and masters stop no others.

    Args:
        plan: the plan.
        digests: whether masters are read whole; without, only their headers are, and names of renditions mean nothing.

    Raises:
        PlanError: the plan's pages cannot be found.
    """
    places, others = find_pages(plan.folder, plan.page_patterns, plan.woven)
    faults: list[str] = []
    pages: list[Page] = []
    for place in places:
        try:
            pages.append(read_asks(place, plan.slots, plan.folder, plan.masters_folder))
        except PageError as error:
            faults.append(str(error))
    wanted = [(ask.block.slot, ask.key) for page in pages for ask in page.asks if ask.key and not ask.fault]
    edition, unreadable = compose_edition(plan, wanted, digests=digests)
    faults += [f"{_asked(plan, pages, key)}: {message}" for key, message in unreadable.items()]
    faults += _missing(plan, {key for _, key in wanted})
    return Site(plan, tuple(pages), tuple(others), edition, tuple(faults))


def compose_edition(
    plan: Plan, wanted: Sequence[tuple[str, str]], *, digests: bool = True
) -> tuple[Edition, dict[str, str]]:
    """Reads the masters that are wanted and composes.

    Args:
        plan: the plan.
        wanted: pairs of slot name and master key.
        digests: as for read_site.

    Returns:
        The Edition, and why masters could not be read, by key.
    """
    facts: dict[str, MasterFacts] = {}
    unreadable: dict[str, str] = {}
    for key in masters_of(wanted, plan.masters):
        try:
            facts[key] = read_facts(plan.masters_folder / key, key, digest=digests)
            if plan.masters.get(key, Master()).find:
                facts[key] = replace(facts[key], found=subject_of(plan.masters_folder / key, key))
        except MasterError as error:
            unreadable[key] = str(error)
    formats = {name: codec.facts() for name, codec in CODECS.items()}
    return compose(wanted, plan.slots, plan.masters, facts, formats, plan.audience), unreadable


def subject_of(file: Path, key: str) -> Found:
    """What a master is about, found in its pixels.

    Raises:
        MasterError: it cannot be decoded.
    """
    from sarvel.core.crop.find import find_subject  # noqa: PLC0415 - slow to load, and few plans ask for it
    from sarvel.press.decode import read_pixels  # noqa: PLC0415 - as above

    return find_subject(read_pixels(file, key))


def _asked(plan: Plan, pages: list[Page], key: str) -> str:
    """Where a master is first asked for."""
    asks = ((page, ask) for page in pages for ask in page.asks if ask.key == key)
    found = next(asks, None)
    if found is None:
        return f"{plan.file}: a cut is taken from it"
    page, ask = found
    return f"{page.place.file}:{ask.block.line}:{ask.block.column}"


def _missing(plan: Plan, asked: set[str]) -> Iterator[str]:
    """Masters that the plan speaks of and nobody has; those that pages ask for are told of with their page."""
    for key in plan.masters:
        if key not in asked and not (plan.masters_folder / key).is_file():
            yield f"{plan.where('masters', key)}: there is no such file in the masters folder; put it there or mend its name"
