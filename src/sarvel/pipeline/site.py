"""A site as its plan and pages describe it: what every job begins with."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from sarvel.core.edition.compose import Edition, Picture, compose, masters_of
from sarvel.core.edition.settle import LeftOut, as_there
from sarvel.encode.codecs import CODECS
from sarvel.errors import AnimatedError, MasterError, PageError, PlanError
from sarvel.files.ledger import Ledger
from sarvel.files.ledger_entries import known_placeholders
from sarvel.files.ledger_rows import FILE_NAME
from sarvel.files.output_folder import OutputFolder, sizes_of
from sarvel.files.writers import wait_until_still
from sarvel.notices import Kind, Notice, Severity
from sarvel.pages.read.asks import Page, read_page
from sarvel.pages.read.data_files import NamedValue, named_values
from sarvel.pages.read.local_files import files_matching
from sarvel.pages.read.page_files import PageFile
from sarvel.pages.weave.partials import partial_name
from sarvel.pipeline.master_facts import facts_of_masters
from sarvel.pipeline.plan_folders import MastersFolder, masters_of_plan, output_of_plan
from sarvel.pipeline.roots import project_of
from sarvel.pipeline.settling import settled_edition
from sarvel.pipeline.standing_efforts import standing, standing_efforts
from sarvel.pipeline.targets import check_targets, pages_of
from sarvel.pipeline.unused import subjects_of_nothing, unused_slots
from sarvel.plan.read import Partials, Plan


@dataclass(frozen=True)
class PlanAndPages:
    """A plan and its pages, as they were at one time.

    Attributes:
        others: files that belong next to woven pages.
    """

    plan: Plan
    masters: MastersFolder
    output: OutputFolder
    pages: tuple[Page, ...]
    others: tuple[PageFile, ...]


@dataclass(frozen=True)
class RequestedImages(PlanAndPages):
    """What the pages of a plan ask for.

    Attributes:
        wanted: slot name and master key of every picture, each once.
        troubles: pages that could not be read, and masters that the plan names and that are not there.
        data: the files of the plan's [data].
        values: their values that name masters.
    """

    wanted: tuple[tuple[str, str], ...]
    troubles: tuple[Notice, ...]
    data: tuple[Path, ...]
    values: tuple[NamedValue, ...]


@dataclass(frozen=True)
class Site(RequestedImages):
    """A plan, its pages, and their Edition.

    Attributes:
        edition: to publish, with the formats that pay as far as known; if not yet rendered, all formats.
        placeholders: the backgrounds of placeholders that were made, by key.
        unreadable: why masters could not be read, by key.
        as_it_stands: whether nothing is going to be made.
    """

    composed: Edition
    edition: Edition
    left_out: tuple[LeftOut, ...]
    placeholders: Mapping[str, str]
    unreadable: Mapping[str, MasterError]
    as_it_stands: bool = False

    @property
    def faults(self) -> tuple[Notice, ...]:
        """Obstacles."""
        unreadable = (
            notice.within(place)
            for key, error in self.unreadable.items()
            if not isinstance(error, AnimatedError)
            for place in _asked(self, key)
            for notice in error.notices
        )
        return tuple(dict.fromkeys([*self.troubles, *unreadable]))

    @property
    def warnings(self) -> tuple[Notice, ...]:
        """Warnings about pictures."""
        return (*subjects_of_nothing(self.plan, self.masters), *self._of_pictures("warning"))

    @property
    def notes(self) -> tuple[Notice, ...]:
        """What the user may leave so about pictures."""
        moving = (
            one for error in self.unreadable.values() if isinstance(error, AnimatedError) for one in error.notices
        )
        return (
            *(replace(one.within(self.plan.file), severity="note") for one in moving),
            *unused_slots(self.plan, self.pages),
            *(note for page in self.pages for note in page.notes),
            *self._of_pictures("note"),
            *(one.notice.within(self.plan.file) for one in self.left_out),
        )

    def files_read(self) -> list[Path]:
        """Every file that the Edition depends on."""
        return [*texts_read(self), *self.masters_read()]

    def masters_read(self) -> list[Path]:
        """The masters on this machine that the Edition depends on."""
        if self.plan.masters_url:
            return []
        keys = {crop.source.key for _, crop in self.composed.crops()} | {key for _, key in self.composed.pictures}
        return [self.plan.masters_folder / key for key in sorted(keys)]

    def made(self, there: Collection[str]) -> list[Picture]:
        """The pictures whose files are all there, or are made when asked for: nothing is to point at others.

        Args:
            there: names of the files in the folder of renditions.
        """
        unmade = self.unmade(there)
        return [picture for pair, picture in self.edition.pictures.items() if pair not in unmade]

    def unmade(self, there: Collection[str]) -> set[tuple[str, str]]:
        """Slot and master of the pictures whose files are not all there; as `made`."""
        if not self.plan.makes_files:
            return set()
        return {
            pair
            for pair, picture in self.edition.pictures.items()
            if any(rendition.name not in there for rendition in picture.renditions())
        }

    def dropped(self) -> set[str]:
        """The names of files of formats that do not pay."""
        return {one.name for left in self.left_out for one in left.renditions} - self.edition.files().keys()

    def there(self) -> dict[str, int]:
        """The files that are to be published and are there: bytes by name.

        Raises:
            OutputError: the folder of renditions cannot be read.
        """
        return sizes_of(self.edition, self.output)

    def _of_pictures(self, severity: Severity) -> tuple[Notice, ...]:
        found = (one for picture in self.edition.pictures.values() for one in picture.notices)
        return tuple(dict.fromkeys(one.within(self.plan.file) for one in found if one.severity == severity))


def texts_read(site: RequestedImages) -> list[Path]:
    """The files next to masters that an Edition depends on."""
    return [site.plan.file, *site.plan.tables, *site.data, *(page.file.source for page in site.pages)]


def ledger_of(plan: Plan, told: Callable[[str], None], *, creates: bool = True, keeps: bool = True) -> Ledger:
    """The ledger of a plan, in its folder.

    Args:
        told: called with a line for the user where something is wrong with it.
        creates: whether to create it if it is missing; costly findings are kept in any case.
        keeps: whether facts of masters are kept; not for commands that only verify, whose ledger may be under version control.
    """
    return Ledger(plan.folder / FILE_NAME, creates=creates, keeps=keeps, told=told)


def read_site(plan: Plan, ledger: Ledger, *, as_it_stands: bool = False) -> Site:
    """Reads pages and masters and composes the Edition. Faults of single pages and masters stop no others.

    Args:
        as_it_stands: whether nothing is going to be made, so that files of less effort than is asked for will do.

    Raises:
        PlanError: the plan's pages cannot be found, or it would write where it may not.
        StorageError: masters or renditions are in object storage that cannot be listed.
    """
    asked = read_asked(plan)
    site = composed_safely(asked, asked.wanted, ledger, as_it_stands=as_it_stands)
    if ledger.is_damaged:  # that was found out in the midst of it
        site = composed_safely(asked, asked.wanted, ledger, as_it_stands=as_it_stands)
    return site


def read_asked(plan: Plan, *, for_undo: bool = False) -> RequestedImages:
    """Reads pages, and the images that they and the plan ask for.

    Args:
        for_undo: whether the pages are all that is needed; masters may be gone.

    Raises:
        PlanError: the masters folder or the pages cannot be found, or a pattern matches no image.
        StorageError: masters are in object storage that cannot be listed.
    """
    if not (for_undo or plan.masters_url or plan.masters_folder.is_dir()):
        where = plan.where("site", "masters")
        raise PlanError.at(where, f"there is no folder {plan.masters_folder}", "name the folder of the master images")
    files, others, faults = pages_of(plan)
    pages: list[Page] = []
    for file in files:
        try:
            pages.append(read_again(plan, file))
        except PageError as error:
            faults += error.notices
    if not (files or faults or for_undo or plan.data or any(slot.masters for slot in plan.slots.values())):
        where = plan.where("site", "pages")
        raise PlanError.at(where, "names no page, and no slot lists masters", 'write a list such as ["pages"]')
    masters = masters_of_plan(plan)
    wanted = [(ask.slot, ask.key) for page in pages for ask in page.asks if ask.key and not ask.fault]
    data, values = ((), ()) if for_undo else _named_in_data(plan, faults)
    wanted += [(one.slot, one.key) for one in values]
    if not for_undo:
        wanted += _unasked(plan, masters)
        faults += _missing(plan, masters, {key for _, key in wanted})
    pairs = tuple(dict.fromkeys(wanted))
    return RequestedImages(
        plan, masters, output_of_plan(plan), tuple(pages), tuple(others), pairs, tuple(faults), data, values
    )


def compose_site(
    asked: RequestedImages, wanted: Sequence[tuple[str, str]], ledger: Ledger, *, as_it_stands: bool = False
) -> Site:
    """Reads masters and composes the Edition of some or all wanted images; like read_site.

    Args:
        wanted: the part of it: pairs of slot name and master key.
    """
    plan, masters, output = asked.plan, asked.masters, asked.output
    composed, unreadable = compose_edition(plan, masters, wanted, ledger)
    if plan.makes_files:
        pictures = dict(composed.pictures)
        for other in standing_efforts(plan, ledger, less=as_it_stands):
            edition = composed if other is plan else compose_edition(other, masters, wanted, ledger)[0]
            pictures |= standing(edition, output, ledger)
        composed = Edition(pictures)
    site = Site(
        plan,
        masters,
        output,
        asked.pages,
        asked.others,
        tuple(wanted),
        asked.troubles,
        asked.data,
        asked.values,
        composed,
        composed,
        (),
        {},
        unreadable,
        as_it_stands,
    )
    return settled(site, ledger)


def composed_safely(
    asked: RequestedImages, wanted: Sequence[tuple[str, str]], ledger: Ledger, *, as_it_stands: bool = False
) -> Site:
    """As compose_site, of a plan that may write where it would.

    Raises:
        PlanError: it would write where it may not.
    """
    site = compose_site(asked, wanted, ledger, as_it_stands=as_it_stands)
    check_targets(site.plan, [page.file for page in site.pages], site.others, _files_made(site.plan, site.composed))
    return site


def read_again(plan: Plan, file: PageFile) -> Page:
    """The current text of a page of a plan; waits for another program that is writing it.

    Raises:
        PageError: it cannot be read.
    """
    if not wait_until_still(file.source):
        raise PageError.at(
            file.source, "another program has it open for writing", "save and close it there, then run again"
        )
    return read_page(file, plan.slots, project_of(plan), plan.masters_folder)


def settled(site: Site, ledger: Ledger) -> Site:
    """The site with what the ledger knows now: weights of files, and so the formats that pay; placeholders."""
    placeholders = known_placeholders(ledger, site.composed)
    if not site.plan.makes_files:  # nothing is weighed before it is asked for
        return replace(site, placeholders=placeholders)
    edition, left_out = settled_edition(site.composed, site.output, ledger)
    if site.as_it_stands:
        there = sizes_of(edition, site.output)
        if len(there) < len(edition.files()):
            ledger.check_rows()
        if ledger.is_damaged:  # it may have forgotten that a format does not pay
            edition = as_there(edition, there)
    return replace(site, edition=edition, left_out=left_out, placeholders=placeholders)


def _files_made(plan: Plan, edition: Edition) -> Iterator[tuple[Path, str, str]]:
    """The files of an Edition: folder, name, and their description in messages."""
    yield from ((plan.output, name, "a made file") for name in sorted(edition.files()))
    if plan.partials:
        files = (partial_file(plan.partials, one) for one in edition.pictures.values() if one.slot.use == "picture")
        yield from ((file.parent, file.name, "a partial") for file in files)


def partial_file(said: Partials, picture: Picture, name: str | None = None) -> Path:
    """The file of a picture's partial.

    Args:
        name: what a data file calls the master; None for its key. Steps upwards are left out.
    """
    parts = [part for part in (name or picture.master.key).split("/") if part not in ("", ".", "..")]
    return said.folder / partial_name(picture.slot.name, "/".join(parts), said.ending)


def _named_in_data(plan: Plan, faults: list[Notice]) -> tuple[tuple[Path, ...], tuple[NamedValue, ...]]:
    """The data files of a plan, and their values that name masters; faults are added.

    Raises:
        PlanError: a pattern matches no file.
    """
    files: list[Path] = []
    values: list[NamedValue] = []
    for pattern, paths in plan.data.items():
        found = files_matching(plan.folder, pattern)
        if not found:
            where, cure = plan.where("data", pattern), "write a pattern that does"
            raise PlanError.at(where, f"matches no file in {plan.folder}", cure)
        for file in found:
            files.append(file)
            try:
                values += named_values(file, paths, project_of(plan), plan.masters_folder, faults)
            except PageError as error:
                faults += error.notices
    return tuple(dict.fromkeys(files)), tuple(dict.fromkeys(values))


def _unasked(plan: Plan, masters: MastersFolder) -> list[tuple[str, str]]:
    """Slot and key of masters that the plan wants, whether or not a page names them.

    Raises:
        PlanError: a pattern matches no image.
    """
    pairs = []
    for slot in plan.slots.values():
        for pattern in slot.masters:
            found = masters.images(pattern)
            if not found:
                where = plan.where("slots", slot.name, "masters")
                raise PlanError.at(
                    where,
                    f"'{pattern}' matches no image in {plan.masters_url or plan.masters_folder}",
                    "write a pattern that does",
                )
            pairs += [(slot.name, key) for key in found]
    return pairs


def compose_edition(
    plan: Plan, masters: MastersFolder, wanted: Sequence[tuple[str, str]], ledger: Ledger
) -> tuple[Edition, dict[str, MasterError]]:
    """Reads the masters that are wanted and composes.

    Args:
        wanted: pairs of slot name and master key.

    Returns:
        The Edition, and why masters could not be read, by key.

    Raises:
        PlanError: the plan wants a format that is not installed.
    """
    for slot in plan.slots.values():
        for name in slot.formats:
            if name not in CODECS:
                raise PlanError.at(
                    plan.where("slots", slot.name),
                    f"the format {name} needs an extra",
                    f"install it with pip install 'sarvel[{name}]', or take {name} out of formats",
                )
    facts, unreadable = facts_of_masters(plan, masters, masters_of(wanted, plan.masters), ledger)
    named = {name for slot in plan.slots.values() for name in slot.formats} | {"png"}  # which replaces others
    formats = {name: CODECS[name].facts() for name in named}
    return compose(wanted, plan.slots, plan.masters, facts, formats, plan.audience, plan.reads), unreadable


def _asked(asked: RequestedImages, key: str) -> list[str]:
    """The places where a master is asked for: pages and data files, else slots of the plan, else crops of another one."""
    asks = ((page.file.source, ask.block) for page in asked.pages for ask in page.asks if ask.key == key)
    places = [f"{file}:{block.line}:{block.column}" for file, block in asks]
    places += [one.place for one in asked.values if one.key == key]
    places = places or [asked.plan.where("slots", slot) for slot, one in asked.wanted if one == key]
    return places or [asked.plan.where("masters", one) for one in _crop_from(asked.plan, key)] or [str(asked.plan.file)]


def _crop_from(plan: Plan, key: str) -> Iterator[str]:
    """The masters with a crop from another one."""
    return (name for name, master in plan.masters.items() if any(crop.master == key for crop in master.crops.values()))


def _missing(plan: Plan, masters: MastersFolder, asked: set[str]) -> Iterator[Notice]:
    """Notices of missing masters that the plan names; the masters of pages are reported with their page."""
    for key in plan.masters:
        if key not in asked and masters.stamp(key) is None:
            where, cure = plan.where("masters", key), "put it there or mend its name"
            yield Notice(Kind.MASTER, where, "there is no such file in the masters folder", cure)
