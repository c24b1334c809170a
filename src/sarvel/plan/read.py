"""Reading sarvel.toml into what the core computes with; every fault of it gathered, each with its line."""

from __future__ import annotations

import tomllib
import urllib.parse
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path
from types import MappingProxyType
from typing import TypeVar

from pydantic import ValidationError

from sarvel.core.crop.place import Box
from sarvel.core.css.lengths import Length, LengthError, parse_length
from sarvel.core.layout.bands import Band, bands_from
from sarvel.core.layout.shown import Shown
from sarvel.core.plan import CutRule, Master, Slot
from sarvel.errors import PlanError
from sarvel.plan import schema
from sarvel.plan.lines import KeyPath, lines_of_keys
from sarvel.plan.messages import Problem, in_words, innermost, nearest, toml_in_words, where

FILE_NAME = "sarvel.toml"


@dataclass(frozen=True)
class Plan:
    """A plan, checked.

    Attributes:
        file: where it was read.
        masters_folder: the folder of master images.
        page_patterns: folders, files or globs of pages, relative to the plan's folder.
        output: the folder of renditions.
        address: how pages reach it: a URL prefix, escaped, without a slash at its end.
        woven: the folder that woven pages go to; None weaves in place.
        slots: by name.
        masters: what the plan says of masters, by key.
        lines: the line of each key, for messages.
    """

    file: Path
    masters_folder: Path
    page_patterns: tuple[str, ...]
    output: Path
    address: str
    woven: Path | None
    slots: Mapping[str, Slot]
    masters: Mapping[str, Master]
    lines: Mapping[KeyPath, int]

    @property
    def folder(self) -> Path:
        """The folder that all paths of the plan are seen from."""
        return self.file.parent

    def where(self, *path: str) -> str:
        """`sarvel.toml:14: slots.card`: how messages begin that speak of a key."""
        return where(self.file, self.lines, path)


def find_plan(start: Path) -> Path:
    """The nearest sarvel.toml, in this folder or above it, as seen from this folder.

    Raises:
        PlanError: there is none.
    """
    for ups, folder in enumerate((start, *start.parents)):
        if (folder / FILE_NAME).is_file():
            return Path(*[".."] * ups, FILE_NAME)
    raise PlanError(f"{start}: no {FILE_NAME} here or in any folder above; write one, or name it with --plan FILE")


def read_plan(file: Path) -> Plan:
    """Reads and checks a plan.

    Raises:
        PlanError: the file is missing or unreadable, is not TOML, or says what cannot be: one line a problem.
    """
    text = _text(file)
    try:
        content = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise PlanError(toml_in_words(file, str(error))) from error
    lines = lines_of_keys(text)
    try:
        parsed = schema.PlanFile.model_validate(content)
    except ValidationError as error:
        raise PlanError("\n".join(in_words(file, lines, detail) for detail in innermost(error.errors()))) from error
    problems: list[Problem] = []
    slots = dict(_sorted_out(_slots(parsed), problems))
    masters = dict(_sorted_out(_masters(parsed), problems))
    if problems:
        raise PlanError("\n".join(f"{where(file, lines, problem.path)}: {problem}" for problem in problems))
    folder = file.parent
    return Plan(
        file=file,
        masters_folder=folder / parsed.site.masters,
        page_patterns=parsed.site.pages,
        output=folder / parsed.site.output,
        # What srcset cannot hold is escaped: white space ends a URL there, and so does a comma at its end.
        address=urllib.parse.quote(parsed.site.address.rstrip("/"), safe="/:?#[]@!$&'()*+;=%~"),
        woven=folder / parsed.site.woven if parsed.site.woven else None,
        slots=MappingProxyType(slots),
        masters=MappingProxyType(masters),
        lines=MappingProxyType(lines),
    )


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
    defaults = parsed.defaults
    return Slot(
        name=name,
        shown=Shown(
            tuple(
                (band, _length(value, key))
                for band, value, key in _by_band(slot.shown, parsed.breakpoints, (*path, "shown"))
            )
        ),
        cuts=tuple(
            CutRule(band, _ratio(value, key))
            for band, value, key in _by_band(slot.cuts, parsed.breakpoints, (*path, "cuts"))
        ),
        load=slot.load,
        formats=tuple(dict.fromkeys(slot.formats or defaults.formats)),
        finish=slot.finish or defaults.finish,
        densities=slot.densities or defaults.densities,
        rungs=slot.rungs or defaults.rungs,
        widths=slot.widths,
        widest=slot.widest or defaults.widest,
    )


def _by_band(said: dict[str, str], breakpoints: dict[str, float], path: KeyPath) -> list[tuple[Band, str, KeyPath]]:
    """What is said of each band, narrowest first, with its place in the plan."""
    if schema.EVERY_BAND in said:
        return [(Band("", 0), said[schema.EVERY_BAND], path)]
    for band in said:
        if band not in breakpoints:
            raise Problem((*path, band), f"'{band}' is no breakpoint; {nearest(band, breakpoints)}")
    first = min(breakpoints, key=lambda name: breakpoints[name])
    if first not in said:
        raise Problem(path, f"says nothing for viewports narrower than its first band; begin with {first} = …")
    return [(band, said[band.name], (*path, band.name)) for band in bands_from(breakpoints, list(said))]


def _length(css: str, path: KeyPath) -> Length:
    try:
        return parse_length(css)
    except LengthError as error:
        raise Problem(path, error.problem) from error


def _ratio(text: str, path: KeyPath) -> float | None:
    if text == "native":
        return None
    try:
        width, height = (float(part) for part in text.split(":"))
        ratio = width / height
    except (ValueError, ZeroDivisionError):
        ratio = 0.0
    # Beyond 20:1 a crop of the largest master would be a few hundred pixels high at most: a slip, such as 169 for 16:9.
    if not 1 / 20 <= ratio <= 20:
        raise Problem(
            path, f'\'{text}\' is no ratio between 1:20 and 20:1; write width:height such as "4:3", or "native"'
        )
    return ratio


def _masters(parsed: schema.PlanFile) -> Iterator[tuple[str, Master] | Problem]:
    for key, master in parsed.masters.items():
        if master.subject is None:
            yield key, Master(master.alt)
            continue
        box = Box(*master.subject)
        if box.width > 0 and box.height > 0:
            yield key, Master(master.alt, box)
        else:
            got = list(master.subject)
            yield Problem(
                ("masters", key, "subject"),
                f"{got} has no area; write [left, top, right, bottom], left < right, top < bottom",
            )
