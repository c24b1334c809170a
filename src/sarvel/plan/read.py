"""Reading sarvel.toml into what the core computes with; every fault of it gathered, each with its line."""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from pathlib import Path, PurePosixPath
from types import MappingProxyType
from typing import TypeVar

from pydantic import ValidationError

from sarvel.core.crop.place import Box
from sarvel.core.css.device import Device, parse_device
from sarvel.core.html.selector import Selector, SelectorError, parse_selector
from sarvel.core.layout.audience import BUILT_IN, Visits
from sarvel.core.model import EFFORTS, FINISHES, ONLY_CUT, CutOverride, Effort, Finish, Master, Measurement, Slot
from sarvel.errors import PlanError
from sarvel.plan import schema
from sarvel.plan.audience_file import read_audience
from sarvel.plan.delivery import Delivery, address_of, delivery_of, delivery_problems, is_by_accept
from sarvel.plan.find import nearest_plan
from sarvel.plan.key_lines import KeyPath, lines_of_keys
from sarvel.plan.limits import odd_values
from sarvel.plan.messages import Problem, deepest_line, in_words, innermost, nearest, toml_in_words, where
from sarvel.plan.slot_layout import read_cuts, read_ratio, read_shown

_AUTO = re.compile(r"\s*auto\s*(?:,|$)", re.IGNORECASE)
SERVED = ("public", "static", "dist")
"""Names of the folder that frameworks serve as /."""


@dataclass(frozen=True)
class Partials:
    """Markup for where only the template engine knows the file.

    Attributes:
        folder: where partials go.
        ending: of their file names, with the point.
        alt: what the engine writes the alt by.
        macro: the file of the macro; None for none.
    """

    folder: Path
    ending: str
    alt: str
    macro: Path | None


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
        file: where it was read.
        masters_folder: the folder of master images.
        page_patterns: folders, files or globs of pages, relative to the plan's folder.
        output: the folder of renditions.
        address: how pages reach it: a URL prefix, escaped, without a slash at its end; None goes by the page. Of a service
            elsewhere the pattern.
        delivery: how files reach browsers.
        by_accept: whether one address stands for a file in all its formats.
        root: the folder that is served as /.
        leaves_alt: whether images without words are woven all the same.
        woven: the folder that woven pages go to; None weaves in place.
        outside: folders outside of the plan's own that may be written to.
        stylesheet: whether placeholders are rules of a stylesheet, not style attributes.
        audience: the devices that the site is visited with.
        audience_file: where that was read; None for the built-in table.
        slots: by name.
        masters: what the plan says of masters, by key.
        breakpoints: where bands of the layout begin, CSS px, by name.
        dialects: names of dialects by file ending, in lower case.
        content: slots of images that name none, by folder or glob of pages.
        manifest: the file that tells programs all pictures; None for none.
        partials: markup for template engines; None for none.
        checks: what `check` lets be, and what it asks for.
        lines: the line of each key, for messages.
    """

    file: Path
    masters_folder: Path
    page_patterns: tuple[str, ...]
    output: Path
    address: str | None
    delivery: Delivery
    by_accept: bool
    root: Path
    leaves_alt: bool
    woven: Path | None
    outside: tuple[Path, ...]
    stylesheet: bool
    audience: tuple[Visits, ...]
    audience_file: Path | None
    slots: Mapping[str, Slot]
    masters: Mapping[str, Master]
    breakpoints: Mapping[str, float]
    dialects: Mapping[str, str]
    content: Mapping[str, str]
    manifest: Path | None
    partials: Partials | None
    checks: Checks
    lines: Mapping[KeyPath, int]

    @property
    def folder(self) -> Path:
        """The folder that all paths of the plan are seen from."""
        return self.file.parent

    @property
    def makes_files(self) -> bool:
        """Whether files are made beforehand, and stand in the folder of renditions."""
        return self.delivery == "files"

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
        PlanError: the file is missing or unreadable, is not TOML, or says what cannot be: one line a problem.
    """
    text = _text(file)
    try:
        content = tomllib.loads(text)
    except ValueError as error:  # tomllib's own, and int()'s for a number of thousands of digits
        raise PlanError(toml_in_words(file, str(error), text)) from error
    except RecursionError as error:
        raise PlanError(
            f"{file}:{deepest_line(text)}: arrays or tables stand too deep within each other; write them flat"
        ) from error
    return plan_from(content, file, lines_of_keys(text))


def read_plan_if_any(named: str | None, start: Path) -> Plan | None:
    """Reads the plan that is named, else the nearest; None if there is none.

    Args:
        named: what --plan says.
        start: the folder, absolute, from which upwards it is looked for.

    Raises:
        PlanError: as read_plan.
    """
    if named:
        return read_plan(Path(named))
    found = nearest_plan(start)
    return read_plan(found if start == Path.cwd() else start / found) if found else None


def plan_from(content: Mapping[str, object], file: Path, lines: Mapping[KeyPath, int]) -> Plan:
    """Checks what a plan says, from wherever it came.

    Args:
        content: its tables and keys.
        file: what messages call it; its folder is what paths are seen from.
        lines: the line of each key, as far as there are any.

    Raises:
        PlanError: it says what cannot be: one line a problem.
    """
    try:
        parsed = schema.PlanFile.model_validate(schema.with_defaults(content))
    except ValidationError as error:
        raise PlanError("\n".join(in_words(file, lines, detail) for detail in innermost(error.errors()))) from error
    problems: list[Problem] = list(odd_values(content, parsed))
    slots = dict(_sorted_out(_slots(parsed), problems))
    masters = dict(_sorted_out(_masters(parsed, slots), problems))
    problems += [*_unknown_slots(parsed), *_unknown_rules(parsed), *delivery_problems(parsed, slots)]
    if problems:
        raise PlanError("\n".join(f"{where(file, lines, problem.path)}: {problem}" for problem in problems))
    folder = file.parent
    return Plan(
        file=file,
        masters_folder=folder / parsed.site.masters,
        page_patterns=parsed.site.pages,
        output=folder / parsed.site.output,
        address=address_of(parsed.site.address),
        delivery=delivery_of(parsed.site),
        by_accept=is_by_accept(parsed.site),
        root=_root(parsed.site, folder),
        leaves_alt=parsed.site.alt == "leave",
        woven=folder / parsed.site.woven if parsed.site.woven else None,
        outside=tuple(folder / place for place in parsed.site.outside),
        stylesheet=parsed.site.placeholders == "stylesheet",
        audience=read_audience(folder / parsed.site.audience) if parsed.site.audience else BUILT_IN,
        audience_file=folder / parsed.site.audience if parsed.site.audience else None,
        slots=MappingProxyType(slots),
        masters=MappingProxyType(masters),
        breakpoints=MappingProxyType(dict(parsed.breakpoints)),
        dialects=MappingProxyType({ending.lower(): name for ending, name in parsed.site.dialects.items()}),
        content=MappingProxyType(parsed.content),
        manifest=folder / parsed.site.manifest if parsed.site.manifest else None,
        partials=_partials(parsed.partials, folder) if parsed.partials else None,
        checks=_checks(parsed.check),
        lines=MappingProxyType(lines),
    )


def _root(said: schema.Site, folder: Path) -> Path:
    """The folder that is served as /: the plan's word, else where pages and renditions go, else one named so, else its own."""
    if said.root is not None:
        return folder / said.root
    output = PurePosixPath(said.output)
    if said.woven and output.is_relative_to(said.woven):
        return folder / said.woven
    named = next((one for one in reversed(output.parents) if one.name in SERVED), None)
    return folder / named if named else folder


def _partials(said: schema.Partials, folder: Path) -> Partials:
    macro = folder / said.macro if said.macro else None
    return Partials(folder / said.folder, said.ending, said.alt, macro)


def _checks(said: schema.Check) -> Checks:
    allow = {rule: (pages,) if isinstance(pages, str) else pages for rule, pages in said.allow.items()}
    budgets = {parse_device(device): _bytes(weight) for device, weight in said.budget.items()}
    return Checks(MappingProxyType(allow), MappingProxyType(budgets), said.too_wide)


def _bytes(said: str) -> int:
    """A weight in kB or MB of 1000, as network panels count."""
    unit = 1_000_000 if said.strip().endswith("MB") else 1000
    return round(float(said.strip()[:-2]) * unit)


def _unknown_rules(parsed: schema.PlanFile) -> Iterator[Problem]:
    if not parsed.check.allow:
        return
    from sarvel.core.check.rules import RULES

    for rule in parsed.check.allow:
        if rule not in RULES:
            yield Problem(("check", "allow", rule), f"no rule '{rule}'; {nearest(rule, RULES)}")


def _unknown_slots(parsed: schema.PlanFile) -> Iterator[Problem]:
    for pattern, slot in parsed.content.items():
        if slot not in parsed.slots:
            yield Problem(("content", pattern), f"no slot '{slot}'; {nearest(slot, parsed.slots)}")


def _text(file: Path) -> str:
    try:
        return file.read_bytes().decode("utf-8-sig")
    except FileNotFoundError as error:
        raise PlanError(f"{file}: there is no such file; name the plan with --plan FILE") from error
    except OSError as error:
        raise PlanError(f"{file}: cannot be read ({error.strerror}); check its permissions") from error
    except UnicodeDecodeError as error:
        raise PlanError(
            f"{file}: byte {error.start} is not UTF-8, which TOML is written in; save it as UTF-8"
        ) from error


_Read = TypeVar("_Read")


def _sorted_out(results: Iterator[tuple[str, _Read] | Problem], problems: list[Problem]) -> Iterator[tuple[str, _Read]]:
    """The results; problems among them go to the list."""
    for result in results:
        if isinstance(result, Problem):
            problems.append(result)
        else:
            yield result


def _slots(parsed: schema.PlanFile) -> Iterator[tuple[str, Slot] | Problem]:
    first = min(parsed.breakpoints, key=lambda name: parsed.breakpoints[name])
    if parsed.breakpoints[first] != 0:
        yield Problem(
            ("breakpoints", first), f"the narrowest band begins at {parsed.breakpoints[first]:g}; begin one at 0"
        )
    for starts in set(parsed.breakpoints.values()):
        alike = [name for name, start in parsed.breakpoints.items() if start == starts]
        if len(alike) > 1:
            yield Problem(("breakpoints", alike[1]), f"begins at {starts:g}, as {alike[0]} does; take one of them away")
    for name, slot in parsed.slots.items():
        try:
            yield name, _slot(name, slot, parsed)
        except Problem as problem:
            yield problem


def _slot(name: str, slot: schema.Slot, parsed: schema.PlanFile) -> Slot:
    path = ("slots", name)
    shown = read_shown(slot.shown, parsed.breakpoints, (*path, "shown"))
    if "{density}" in slot.name and shown.constant() is None:
        key = "shown" if slot.name == parsed.defaults.name else "name"
        raise Problem((*path, key), "{density} in file names needs one constant shown width")
    return Slot(
        name=name,
        shown=shown,
        name_files=slot.name,
        cuts=read_cuts(slot, parsed.breakpoints, (*path, "cuts")),
        load=slot.load,
        formats=tuple(dict.fromkeys(slot.formats)),
        finish=_finish(slot),
        effort=slot.effort,
        densities=slot.densities,
        rungs=slot.rungs,
        excess=_share(slot.excess) if slot.excess else None,
        soft=min(_share(slot.soft), 0.99),
        widths=slot.widths,
        widest=slot.widest,
        masters=slot.masters,
        behind=slot.behind,
        takes=_takes(slot, (*path, "takes")),
        placeholder=slot.placeholder.lower(),
        space=slot.space or "",
        styled=slot.styled or _says_auto(slot.shown),
        measured=Measurement(said.on.isoformat(), MappingProxyType(said.pages)) if (said := slot.measured) else None,
    )


def _share(said: str) -> float:
    """A percentage as a share."""
    return float(said.strip().rstrip("%")) / 100


def _says_auto(shown: object) -> bool:
    """Tells whether a shown width is a `sizes` value that lets browsers measure the image."""
    said = shown.get(schema.EVERY_BAND, "") if isinstance(shown, Mapping) else ""
    return bool(_AUTO.match(said))


def _takes(slot: schema.Slot, path: KeyPath) -> tuple[Selector, ...]:
    try:
        selectors = tuple(map(parse_selector, slot.takes))
    except SelectorError as error:
        raise Problem(path, str(error)) from error
    for one in selectors:
        if one.type not in ("", "img") and not slot.behind:
            raise Problem(path, f"'{one.css}' is no selector of an img; write img, or behind = true for backgrounds")
    return selectors


def _finish(slot: schema.Slot) -> Finish:
    said = slot.finish
    return Finish(
        name=said if isinstance(said, str) else f"{said:g}",
        likeness=FINISHES[said] if isinstance(said, str) else said,
        quality=slot.quality,
        gamut=slot.gamut,
        keep=slot.keep,
        interlace=slot.interlace,
    )


def _masters(parsed: schema.PlanFile, slots: Mapping[str, Slot]) -> Iterator[tuple[str, Master] | Problem]:
    for key, master in parsed.masters.items():
        try:
            cuts = {
                (slot, cut): _override(slot, cut, said, slots, ("masters", key, "cuts", slot, cut))
                for slot, by_cut in master.cuts.items()
                for cut, said in by_cut.items()
                if slot in slots or slot not in parsed.slots  # what is wrong with a slot has been told already
            }
        except Problem as problem:
            yield problem
            continue
        find = master.subject == schema.FIND
        boxes = () if find or master.subject is None else tuple(Box(*box) for box in master.subject)
        yield key, Master(master.alt, boxes, find, MappingProxyType(cuts), master.drawn)


def _override(slot: str, cut: str, said: schema.MasterCut, slots: Mapping[str, Slot], path: KeyPath) -> CutOverride:
    if slot not in slots:
        raise Problem(path[:-1], f"no slot '{slot}'; {nearest(slot, slots)}")
    names = [rule.name or ONLY_CUT for rule in slots[slot].cuts]
    if cut not in names:
        raise Problem(path, f"no cut '{cut}' in slot {slot}; {nearest(cut, names)}")
    ratio = read_ratio(said.ratio, (*path, "ratio")) or 0.0 if said.ratio else None
    return CutOverride(
        box=Box(*said.box) if said.box else None,
        master=said.from_,
        ratio=ratio,
        zoom=said.zoom,
        lean=(said.lean[0], said.lean[1]) if said.lean else None,
    )
