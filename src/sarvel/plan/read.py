"""Reading sarvel.toml into what the core computes with; every fault of it gathered, each with its line."""

from __future__ import annotations

import os
import tomllib
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path, PurePosixPath
from types import MappingProxyType
from typing import TypeVar

from pydantic import ValidationError

from sarvel.core.css.device import Device, parse_device
from sarvel.core.edition.formats import READS
from sarvel.core.html.dialect import STYLES
from sarvel.core.html.markdown_call import PartialCall
from sarvel.core.layout.audience import BUILT_IN, Visits, reads_of
from sarvel.core.model import EFFORTS, Effort, Master, Slot
from sarvel.errors import PlanError, cure_of
from sarvel.plan import schema
from sarvel.plan.audience_file import read_audience
from sarvel.plan.delivery import Delivery, address_of, delivery_of, delivery_problems, is_by_accept
from sarvel.plan.find import FILE_NAME, nearest_plan
from sarvel.plan.key_lines import KeyPath, lines_of_keys
from sarvel.plan.limits import odd_values
from sarvel.plan.messages import Problem, deepest_line, in_words, innermost, nearest, toml_in_words, where
from sarvel.plan.slots_and_masters import masters_of, slots_of
from sarvel.plan.storage_urls import masters_place, output_place, place_problems
from sarvel.plan.subjects_file import ImportedSubjects, read_subjects

_Read = TypeVar("_Read")

_UNITS = {"kB": 1e3, "MB": 1e6, "GB": 1e9}
SERVED = ("public", "static", "dist")
"""Names of the folder that frameworks serve as /."""


@dataclass(frozen=True)
class Partials:
    """Markup for where only the template engine knows the file.

    Attributes:
        ending: of their file names, with the point.
        alt: what the engine writes the alt by.
        macro: the file of the macro; None for none.
        call: how Markdown calls a partial; None if it holds the markup itself.
    """

    folder: Path
    ending: str
    alt: str
    macro: Path | None
    call: PartialCall | None


@dataclass(frozen=True)
class Checks:
    """The settings of `check`.

    Attributes:
        allow: globs of pages, relative to the plan's folder, where a rule may be broken; by rule.
        budgets: bytes that all images of a page may weigh, by device.
        too_wide: from how many times the pixels across that a device needs a file is a waste.
    """

    allow: Mapping[str, tuple[str, ...]]
    budgets: Mapping[Device, int]
    too_wide: float


@dataclass(frozen=True)
class Plan:
    """A plan, checked.

    Attributes:
        masters_folder: the folder of master images; of those in object storage, where pages take it to be.
        masters_url: where in object storage they are; None for a folder.
        masters_kept: bytes that may be kept of those on this machine.
        page_patterns: folders, files or globs of pages, relative to the plan's folder.
        output: the folder of renditions; if they go to object storage, where they are made.
        output_url: where in object storage they go; None for a folder.
        address: how pages reach it: a URL prefix, escaped, without a slash at its end; None follows the page. Of a service
            elsewhere the pattern.
        by_accept: whether one address serves all formats of a file.
        root: the folder that is served as /, or as the base.
        base: the path that the site is published below, without a slash at its end; "" for none.
        url: the address that the site is published at, without a slash at its end; "" if it is not said.
        leaves_alt: whether images without words are woven all the same.
        woven: the folder that woven pages go to; None weaves in place.
        outside: folders outside of the plan's own that may be written to.
        stylesheet: whether placeholders are rules of a stylesheet, not style attributes.
        audience: the devices that the site is visited with.
        tables: the files of CSV or JSON that it names: the audience, and the subjects.
        subjects: what a file of subjects names, which the plan does not; None for no such file.
        reads_said: the plan's words about the share of visits that read each format.
        masters: what the plan says of masters, by key.
        breakpoints: where bands of the layout begin, CSS px, by name.
        dialects: names of dialects by file ending, in lower case.
        content: slots of images that name none, by folder or glob of pages.
        data: paths of values that name images, by slot, by the pattern of their files.
        manifest: the file that tells programs all pictures; None for none.
        component: the file of the component that woven scripts call; None if they hold the markup themselves.
        partials: markup for template engines; None for none.
        checks: the settings of `check`.
        lines: the line of each key, for messages.
    """

    file: Path
    masters_folder: Path
    masters_url: str | None
    masters_kept: int
    page_patterns: tuple[str, ...]
    output: Path
    output_url: str | None
    address: str | None
    delivery: Delivery
    by_accept: bool
    root: Path
    base: str
    url: str
    leaves_alt: bool
    woven: Path | None
    outside: tuple[Path, ...]
    stylesheet: bool
    audience: tuple[Visits, ...]
    tables: tuple[Path, ...]
    subjects: ImportedSubjects | None
    reads_said: Mapping[str, float]
    slots: Mapping[str, Slot]
    masters: Mapping[str, Master]
    breakpoints: Mapping[str, float]
    dialects: Mapping[str, str]
    content: Mapping[str, str]
    data: Mapping[str, Mapping[str, tuple[str, ...]]]
    manifest: Path | None
    component: Path | None
    partials: Partials | None
    checks: Checks
    lines: Mapping[KeyPath, int]

    @property
    def folder(self) -> Path:
        """The folder that all paths of the plan are seen from."""
        return self.file.parent

    @property
    def makes_files(self) -> bool:
        """Whether files are made beforehand, and are in the folder of renditions."""
        return self.delivery == "files"

    @property
    def reads(self) -> Mapping[str, float] | None:
        """The share of visits that read each format; None if files are made when they are asked for, at all widths."""
        return {**READS, **reads_of(self.audience), **self.reads_said} if self.makes_files else None

    @property
    def starts(self) -> tuple[float, ...]:
        """Where bands of the layout begin, CSS px, in order."""
        return tuple(sorted(self.breakpoints.values()))

    def at_effort(self, effort: Effort, *, least: bool = False) -> Plan:
        """The plan with this effort for all slots; with `least` only for those whose own is less."""
        rank = EFFORTS.index(effort)
        slots = {
            name: slot if least and EFFORTS.index(slot.effort) >= rank else replace(slot, effort=effort)
            for name, slot in self.slots.items()
        }
        return replace(self, slots=MappingProxyType(slots))

    def where(self, *path: str) -> str:
        """`sarvel.toml:14: slots.card`: how messages begin that speak of a key."""
        return where(self.file, self.lines, path)


def read_plan(file: Path) -> Plan:
    """Reads and checks a plan.

    Raises:
        PlanError: the file is missing or unreadable, is not TOML, or is invalid: one line a problem.
    """
    file = file / FILE_NAME if file.is_dir() else file
    text = _text(file)
    try:
        content = tomllib.loads(text)
    except ValueError as error:  # tomllib's own, and int()'s for a number of thousands of digits
        raise PlanError(toml_in_words(file, str(error), text)) from error
    except RecursionError as error:
        raise PlanError.at(
            f"{file}:{deepest_line(text)}", "arrays or tables stand too deep within each other", "write them flat"
        ) from error
    return plan_from(content, file, lines_of_keys(text))


_OF_PAGES = (
    "pages",
    "woven",
    "output",
    "component",
    "masters",
    "root",
    "dialects",
    "outside",
)  # keys of [site] that tell where things are


def read_plan_for_undo(file: Path) -> Plan:
    """Reads a plan to restore pages: only the places of pages need to be right in it.

    Raises:
        PlanError: it does not tell that.
    """
    try:
        return read_plan(file)
    except PlanError as error:
        try:
            content = tomllib.loads(_text(file))
            said = content.get("site", {})
            site = {key: said[key] for key in _OF_PAGES if key in said} if isinstance(said, dict) else {}
            return plan_from({"site": site, "slots": {"any": {"sizes": "100vw", "selectors": ["img"]}}}, file, {})
        except (ValueError, PlanError):
            raise error from None


def read_plan_if_any(named: str | None, start: Path) -> Plan | None:
    """Reads the plan that is named, else the nearest; or None.

    Args:
        start: the folder, absolute, from which upwards it is looked for.

    Raises:
        PlanError: as read_plan.
    """
    if named:
        return read_plan(Path(named))
    found = nearest_plan(start)
    return read_plan(found if start == Path.cwd() else start / found) if found else None


def plan_from(content: Mapping[str, object], file: Path, lines: Mapping[KeyPath, int]) -> Plan:
    """Checks what a plan says, from any source.

    Args:
        file: what messages call it; its folder is what paths are seen from.
        lines: the line of each key, as far as there are any.

    Raises:
        PlanError: it is invalid: one line a problem.
    """
    try:
        parsed = schema.PlanFile.model_validate(schema.with_defaults(content))
    except ValidationError as error:
        raise PlanError(*(in_words(file, lines, detail) for detail in innermost(error.errors()))) from error
    problems: list[Problem] = list(odd_values(content, parsed))
    slots = dict(_sorted_out(slots_of(parsed), problems))
    masters = dict(_sorted_out(masters_of(parsed, slots), problems))
    problems += [
        *_unknown_slots(parsed),
        *_unknown_rules(parsed),
        *delivery_problems(parsed, slots),
        *place_problems(parsed.site),
    ]
    if problems:
        raise PlanError(*(problem.notice(file, lines) for problem in problems))
    folder = file.parent
    places, output = masters_place(parsed.site.masters, folder), output_place(parsed.site.output, folder)
    tops = [Path(os.path.relpath(places.folder, folder)).as_posix(), places.folder.absolute().as_posix()]
    return Plan(
        file=file,
        masters_folder=places.folder,
        masters_url=places.url,
        masters_kept=_bytes(parsed.site.masters_kept),
        page_patterns=parsed.site.pages,
        output=output.folder,
        output_url=output.url,
        address=address_of(parsed.site.address),
        delivery=delivery_of(parsed.site),
        by_accept=is_by_accept(parsed.site),
        root=_root(parsed.site, folder),
        base=parsed.site.base.rstrip("/"),
        url=(parsed.site.url or "").rstrip("/"),
        leaves_alt=parsed.site.alt == "leave",
        woven=folder / parsed.site.woven if parsed.site.woven else None,
        outside=tuple(folder / place for place in parsed.site.outside),
        stylesheet=parsed.site.placeholders == "stylesheet",
        audience=_table("audience", parsed.site.audience, file, lines, read_audience) or BUILT_IN,
        tables=tuple(folder / named for named in (parsed.site.audience, parsed.site.subjects) if named),
        subjects=_table("subjects", parsed.site.subjects, file, lines, lambda table: read_subjects(table, tops)),
        reads_said=MappingProxyType({str(name): share for name, share in parsed.site.reads.items()}),
        slots=MappingProxyType(slots),
        masters=MappingProxyType(masters),
        breakpoints=MappingProxyType(dict(parsed.breakpoints)),
        dialects=MappingProxyType(_dialects(parsed)),
        content=MappingProxyType(parsed.content),
        data=MappingProxyType({pattern: _paths(said) for pattern, said in parsed.data.items()}),
        manifest=folder / parsed.site.manifest if parsed.site.manifest else None,
        component=folder / parsed.site.component if parsed.site.component else None,
        partials=_partials(parsed.partials, folder) if parsed.partials else None,
        checks=_checks(parsed.check),
        lines=MappingProxyType(lines),
    )


def _table(
    key: str, named: str | None, file: Path, lines: Mapping[KeyPath, int], read: Callable[[Path], _Read]
) -> _Read | None:
    """What a file next to the plan says; None if the plan names none."""
    try:
        return read(file.parent / named) if named else None
    except PlanError as error:
        raise error.within(where(file, lines, ("site", key))) from error


def _root(said: schema.SiteTable, folder: Path) -> Path:
    """The folder that is served as /: the plan's word, else where pages and renditions go, else one named so, else its own."""
    if said.root is not None:
        return folder / said.root
    output = PurePosixPath("" if "://" in said.output else said.output)
    if said.woven and output.is_relative_to(said.woven):
        return folder / said.woven
    named = next((one for one in reversed(output.parents) if one.name in SERVED), None)
    return folder / named if named else folder


def _partials(said: schema.PartialsTable, folder: Path) -> Partials:
    macro = folder / said.macro if said.macro else None
    call = PartialCall(said.call, said.ending) if said.call else None
    return Partials(folder / said.folder, said.ending, said.alt, macro, call)


def _checks(said: schema.CheckTable) -> Checks:
    allow = {rule: (pages,) if isinstance(pages, str) else pages for rule, pages in said.allow.items()}
    budgets = {parse_device(device): _bytes(weight) for device, weight in said.budget.items()}
    return Checks(MappingProxyType(allow), MappingProxyType(budgets), said.too_wide)


def _bytes(said: str) -> int:
    """A weight in kB, MB or GB of 1000, as network panels count."""
    return round(float(said.strip()[:-2]) * _UNITS[said.strip()[-2:]])


def _unknown_rules(parsed: schema.PlanFile) -> Iterator[Problem]:
    if not parsed.check.allow:
        return
    from sarvel.rules import RULES

    for rule in parsed.check.allow:
        if rule not in RULES:
            yield Problem(("check", "allow", rule), f"no rule '{rule}'", nearest(rule, RULES))


def _dialects(parsed: schema.PlanFile) -> dict[str, str]:
    """Dialects by ending: the plan's own, and those of stylesheets if a slot is for these."""
    styles = STYLES if any(slot.use == "style" for slot in parsed.slots.values()) else {}
    return {**styles, **{ending.lower(): name for ending, name in parsed.site.dialects.items()}}


def _paths(said: Mapping[str, str | tuple[str, ...]]) -> Mapping[str, tuple[str, ...]]:
    return {slot: (paths,) if isinstance(paths, str) else paths for slot, paths in said.items()}


def _unknown_slots(parsed: schema.PlanFile) -> Iterator[Problem]:
    for pattern, slot in parsed.content.items():
        if slot not in parsed.slots:
            yield Problem(("content", pattern), f"no slot '{slot}'", nearest(slot, parsed.slots))
    for pattern, said in parsed.data.items():
        for slot in said:
            if slot not in parsed.slots:
                yield Problem(("data", pattern, slot), f"no slot '{slot}'", nearest(slot, parsed.slots))


def _text(file: Path) -> str:
    try:
        return file.read_bytes().decode("utf-8-sig")
    except FileNotFoundError as error:
        raise PlanError.at(file, "there is no such file", "name the plan with --plan FILE") from error
    except OSError as error:
        raise PlanError.at(file, f"cannot be read ({error.strerror})", cure_of(error)) from error
    except UnicodeDecodeError as error:
        raise PlanError.at(
            file, f"byte {error.start} is not UTF-8, which TOML is written in", "save it as UTF-8"
        ) from error


def _sorted_out(results: Iterator[tuple[str, _Read] | Problem], problems: list[Problem]) -> Iterator[tuple[str, _Read]]:
    """The results; problems among them go to the list."""
    for result in results:
        if isinstance(result, Problem):
            problems.append(result)
        else:
            yield result
