"""A site as its plan and pages describe it: what every command begins with."""

from __future__ import annotations

import argparse
import functools
import itertools
import json
import os
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from sarvel.cli.speak import warn
from sarvel.cli.targets import check_targets, pages_of
from sarvel.core.crop.found import Found
from sarvel.core.crop.place import Box
from sarvel.core.edition import Edition, Picture, compose, masters_of
from sarvel.core.facts import MasterFacts
from sarvel.core.html.behind import STYLESHEET
from sarvel.core.plan import Master
from sarvel.core.settle import LeftOut, settle
from sarvel.errors import MasterError, PageError, PlanError
from sarvel.pages.at_hand import is_file
from sarvel.pages.files import PageFile
from sarvel.pages.named import names_in_pages
from sarvel.pages.partials import partial_name
from sarvel.pages.weave import Page, read_asks
from sarvel.plan.find import find_plan
from sarvel.plan.read import Partials, Plan, read_plan
from sarvel.press.codecs import CODECS
from sarvel.press.findings import placeholders_found
from sarvel.press.ledger import FILE_NAME, Ledger
from sarvel.press.masters import read_facts
from sarvel.press.render import standing, weights_of


@dataclass(frozen=True)
class Site:
    """A plan, its pages, and the Edition that they come to.

    Attributes:
        plan: the plan.
        pages: pages that could be read.
        others: files that belong beside woven pages.
        composed: everything that could be made.
        faults: what stands in the way of parts of it, a message each.
        ledger: what was made before.
    """

    plan: Plan
    pages: tuple[Page, ...]
    others: tuple[PageFile, ...]
    composed: Edition
    faults: tuple[str, ...]
    ledger: Ledger

    @functools.cached_property
    def _settled(self) -> tuple[Edition, tuple[LeftOut, ...]]:
        return settle(self.composed, weights_of(self.composed, self.plan.output, self.ledger))

    @property
    def edition(self) -> Edition:
        """What is to be published, as far as it is known what pays: of what is not rendered yet, all."""
        return self._settled[0]

    @property
    def left_out(self) -> tuple[LeftOut, ...]:
        """Formats that do not pay."""
        return self._settled[1]

    @functools.cached_property
    def placeholders(self) -> dict[str, str]:
        """The backgrounds of placeholders that were made, by key."""
        return placeholders_found(self.ledger, self.composed)

    def read_again(self, place: PageFile) -> Page:
        """A page as it is now.

        Raises:
            PageError: it cannot be read.
        """
        return read_asks(place, self.plan.slots, self.plan.folder, self.plan.masters_folder)

    def afresh(self) -> Site:
        """The same site, for when something was rendered."""
        return replace(self)

    @property
    def warnings(self) -> tuple[str, ...]:
        """What the user must mend of the pictures, each message once."""
        return self._once(warning for picture in self.edition.pictures.values() for warning in picture.warnings)

    @property
    def notes(self) -> tuple[str, ...]:
        """What the user should know of the pictures, each message once."""
        notes = (note for picture in self.edition.pictures.values() for note in picture.notes)
        return self._once([*notes, *map(str, self.left_out)])

    def files_read(self) -> list[Path]:
        """Every file that the Edition hangs on."""
        plan = self.plan
        masters = {cut.source.key for _, cut in self.composed.cuts()} | {key for _, key in self.composed.pictures}
        own = [plan.file, *([plan.audience_file] if plan.audience_file else [])]
        return [
            *own,
            *(page.place.file for page in self.pages),
            *(plan.masters_folder / key for key in sorted(masters)),
        ]

    def names_in_pages(self) -> set[str]:
        """Files that pages name as they stand, and what is written beside them: authors' pages and woven ones."""
        plan = self.plan
        places = [*(page.place for page in self.pages), *self.others]
        files = {file for place in places for file in (place.file, place.target)}
        partials = plan.partials.folder.rglob("*") if plan.partials else ()
        single = (plan.output / STYLESHEET, plan.manifest, plan.partials.macro if plan.partials else None)
        return names_in_pages([*sorted(files), *filter(Path.is_file, partials), *filter(None, single)])

    def folders_read(self) -> list[Path]:
        """Every folder in which a new file could be a page or a master that was missing."""
        folders = {page.place.file.parent for page in self.pages}
        for pattern in self.plan.page_patterns:
            root = self.plan.folder
            for part in itertools.takewhile(lambda part: not set(part) & set("*?["), Path(pattern).parts):
                root /= part
            folders |= {Path(folder) for folder, _, _ in os.walk(root)}
        return sorted(folders)

    def _once(self, messages: Iterable[str]) -> tuple[str, ...]:
        return tuple(dict.fromkeys(f"{self.plan.file}: {message}" for message in messages))

    def made(self) -> list[Picture]:
        """The pictures whose files are all there: nothing is to point at others."""
        unmade = self.unmade()
        return [picture for pair, picture in self.edition.pictures.items() if pair not in unmade]

    def unmade(self) -> set[tuple[str, str]]:
        """Slot and master of pictures whose files are not all there."""
        there = standing(self.plan.output)
        return {
            pair
            for pair, picture in self.edition.pictures.items()
            if any(rendition.name not in there for rendition in picture.renditions())
        }


def plan_of(options: argparse.Namespace) -> Plan:
    """The plan that the options name, or the nearest.

    Raises:
        PlanError: there is none, or it is wrong.
    """
    return read_plan(Path(options.plan) if options.plan else find_plan(Path.cwd()))


def ledger_of(plan: Plan, *, writes: bool = True) -> Ledger:
    """The ledger of a plan, in its folder.

    Args:
        plan: the plan.
        writes: whether the command that asks for it writes anything.
    """
    return Ledger(plan.folder / FILE_NAME, writes=writes, told=warn)


def read_site(plan: Plan, ledger: Ledger) -> Site:
    """Reads pages and masters and composes the Edition. Faults of single pages and masters stop no others.

    Raises:
        PlanError: the plan's pages cannot be found.
    """
    places, others, faults = pages_of(plan)
    pages: list[Page] = []
    for place in places:
        try:
            pages.append(read_asks(place, plan.slots, plan.folder, plan.masters_folder))
        except PageError as error:
            faults.append(str(error))
    wanted = [(ask.slot, ask.key) for page in pages for ask in page.asks if ask.key and not ask.fault]
    wanted += _unasked(plan)
    edition, unreadable = compose_edition(plan, wanted, ledger)
    faults += [f"{_asked(plan, pages, key)}: {message}" for key, message in unreadable.items()]
    faults += _missing(plan, {key for _, key in wanted})
    site = Site(plan, tuple(pages), tuple(others), edition, tuple(faults), ledger)
    check_targets(plan, [page.place for page in pages], others, _files_made(plan, edition))
    return site


def _files_made(plan: Plan, edition: Edition) -> Iterator[tuple[Path, str]]:
    """What is made of an Edition, and what messages call it."""
    names = {one.name for picture in edition.pictures.values() for one in picture.renditions()}
    yield from ((plan.output / name, "a rendition") for name in sorted(names))
    if plan.partials:
        yield from ((partial_file(plan.partials, one), "a partial") for one in edition.pictures.values())


def partial_file(said: Partials, picture: Picture) -> Path:
    """Where the partial of a picture goes."""
    return said.folder / partial_name(picture.slot.name, picture.master.key, said.ending)


def _unasked(plan: Plan) -> list[tuple[str, str]]:
    """Slot and key of masters that the plan wants, whether or not a page names them.

    Raises:
        PlanError: a glob matches nothing.
    """
    pairs = []
    for slot in plan.slots.values():
        for pattern in slot.masters:
            found = sorted(file for file in plan.masters_folder.glob(pattern) if file.is_file())
            if not found:
                raise PlanError(
                    f"{plan.where('slots', slot.name, 'masters')}: '{pattern}' matches no file in {plan.masters_folder}; "
                    "write a glob that does"
                )
            pairs += [(slot.name, file.relative_to(plan.masters_folder).as_posix()) for file in found]
    return pairs


def compose_edition(plan: Plan, wanted: Sequence[tuple[str, str]], ledger: Ledger) -> tuple[Edition, dict[str, str]]:
    """Reads the masters that are wanted and composes.

    Args:
        plan: the plan.
        wanted: pairs of slot name and master key.
        ledger: what was read before.

    Returns:
        The Edition, and why masters could not be read, by key.

    Raises:
        PlanError: the plan wants a format that is not installed.
    """
    for slot in plan.slots.values():
        for name in slot.formats:
            if name not in CODECS:
                raise PlanError(
                    f"{plan.where('slots', slot.name)}: the format {name} needs an extra; "
                    f"install it with pip install 'sarvel[{name}]', or take {name} out of formats"
                )
    facts: dict[str, MasterFacts] = {}
    unreadable: dict[str, str] = {}
    for key in masters_of(wanted, plan.masters):
        try:
            facts[key] = _facts_of(plan, key, ledger)
        except MasterError as error:
            unreadable[key] = str(error)
    named = {name for slot in plan.slots.values() for name in slot.formats} | {"png"}  # which stands in for others
    formats = {name: CODECS[name].facts() for name in named}
    return compose(wanted, plan.slots, plan.masters, facts, formats, plan.audience), unreadable


def _facts_of(plan: Plan, key: str, ledger: Ledger) -> MasterFacts:
    """What there is to know of a master, from the ledger if its file was not touched since."""
    file = plan.masters_folder / key
    stat = file.stat() if is_file(file) else None
    facts = ledger.master(file, stat, key) if stat else None
    if facts is None:
        facts = read_facts(file, key)
        if stat:
            ledger.remember_master(file, stat, facts)
    if plan.masters.get(key, Master()).find:
        facts = replace(facts, found=_subject_of(file, key, facts.digest, ledger))
    return facts


def _subject_of(file: Path, key: str, digest: str, ledger: Ledger) -> Found:
    """The subject of a master, found before or now."""
    said = ledger.finding(f"subject {digest}")
    if said:
        sure, *box = json.loads(said)
        return Found(Box(*box), sure)
    found = subject_of(file, key, digest)
    box = found.box
    ledger.remember([], {f"subject {digest}": json.dumps([found.sure, box.left, box.top, box.right, box.bottom])})
    return found


def subject_of(file: Path, key: str, digest: str = "") -> Found:
    """What a master is about, found in its pixels.

    Args:
        file: the master.
        key: what messages call it.
        digest: what its bytes must still be; "" takes any.

    Raises:
        MasterError: it cannot be decoded.
    """
    from sarvel.core.crop.find import find_subject  # noqa: PLC0415 - slow to load, and few plans ask for it
    from sarvel.press.decode import read_pixels  # noqa: PLC0415 - as above

    return find_subject(read_pixels(file, key, digest))


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
        if key not in asked and not is_file(plan.masters_folder / key):
            yield f"{plan.where('masters', key)}: there is no such file in the masters folder; put it there or mend its name"
