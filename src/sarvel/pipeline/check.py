"""Pages and stylesheets checked, on their own or at the end of a build."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from types import MappingProxyType
from typing import NamedTuple

from sarvel.core.check.rule import SEVERITIES, Severity
from sarvel.core.html.dialect import dialect_of
from sarvel.errors import PageError, PlanError
from sarvel.notices import Notice
from sarvel.pages.read.local_files import is_file
from sarvel.pages.read.page_files import read_text
from sarvel.pipeline.checker import CheckedPage, Checker
from sarvel.pipeline.targets import pages_of
from sarvel.plan.read import Plan, read_plan
from sarvel.rules import RULES

_PORTION = 2_000_000  # bytes of pages that a process checks at a time
_WORTH_PROCESSES = 6  # portions: for fewer, processes begin no sooner than one is done with all (bench/checking.py)
_BEGIN = 65_536  # bytes of a file that tell whether it is a page

USUAL: Severity = "wasteful"
"""The severity from which on a finding needs the user, where nothing else is asked for."""


@dataclass(frozen=True)
class Checked:
    """The result of a check.

    Attributes:
        pages: the pages and stylesheets, in the order of the files.
        faults: files that could not be read, and why.
        looked: other files that were read, and places of missing ones.
    """

    pages: tuple[CheckedPage, ...]
    faults: tuple[Notice, ...]
    looked: tuple[Path, ...]

    def without(self, *rules: str) -> Checked:
        """The same without the findings of some rules."""
        pages = (
            replace(page, findings=tuple(one for one in page.findings if one.rule not in rules)) for page in self.pages
        )
        return replace(self, pages=tuple(pages))

    def has_grave(self, severity: Severity = USUAL) -> bool:
        """Tells whether there is a finding of this severity or a graver one."""
        grave = SEVERITIES[: SEVERITIES.index(severity) + 1]
        return any(RULES[one.rule].severity in grave for page in self.pages for one in page.findings)


def pages_of_plan(plan: Plan) -> list[Path]:
    """The plan's pages, as woven."""
    files, _, _ = pages_of(plan)
    return [file.target for file in files if is_file(file.target)]


def pages_to_check(names: Sequence[str], plan: Plan | None) -> list[Path]:
    """The pages named, and those in folders named; else the plan's, as woven.

    Raises:
        PlanError: a name is no page and no folder with pages.
    """
    if not names:
        return pages_of_plan(plan) if plan else []
    named = [Path(name) for name in names]
    for page in named:
        if not page.exists():
            raise PlanError.at(page, "there is no such page", "mend its name")
    said = plan.dialects if plan else {}
    for page in named:
        if page.is_file() and not (page.suffix == ".css" or dialect_of(page.name, said) or _holds_markup(page)):
            raise PlanError.at(page, "is no page", "name pages, templates, stylesheets or folders of them")
    found = {page: _inside(page, said) if page.is_dir() else [page] for page in named}
    for page, files in found.items():
        if not files:
            raise PlanError.at(page, "no page, template or stylesheet is in this folder")
    return [file for files in found.values() for file in files]


def _holds_markup(file: Path) -> bool:
    """Tells whether a file of an ending that no dialect has may be a page."""
    try:
        begin = file.read_bytes()[:_BEGIN]
    except OSError:
        return True  # reading it reports the error
    return b"\0" not in begin and b"<" in begin


def _inside(folder: Path, said: Mapping[str, str]) -> list[Path]:
    """The pages and stylesheets of a folder."""
    return sorted(
        file
        for file in folder.rglob("*")
        if (file.suffix == ".css" or dialect_of(file.name, said))
        and file.is_file()
        and "node_modules" not in file.parts
    )


def check_files(
    files: Iterable[Path],
    plan: Plan | None,
    unsaved: Mapping[Path, str] = MappingProxyType({}),
    workers: int = 1,
) -> Checked:
    """Checks pages and stylesheets, and the stylesheets that pages link to, each once.

    Args:
        plan: slots, audience, budgets and allowed rules; or None.
        unsaved: texts of files that are not saved yet.
        workers: processes at most; with more than one, the plan must be as its file has it.
    """
    queue = list(dict.fromkeys(files))
    portions = _portions(queue, plan) if workers > 1 and not unsaved else []
    if len(portions) > 1:
        from sarvel.workers.processes import each_done  # slow to load

        done = sorted(each_done(_of_portion, portions, workers, _of_portion), key=lambda one: one[0])
        parts = [part for _, part in done]
    else:
        parts = [_checked(queue, Checker(plan), unsaved)]
    known = {file.absolute() for file in queue}
    linked = dict.fromkeys(file for part in parts for file in part.linked if file.absolute() not in known)
    parts.append(_checked(list(linked), Checker(plan), unsaved))
    return Checked(
        tuple(page for part in parts for page in part.pages),
        tuple(fault for part in parts for fault in part.faults),
        tuple(dict.fromkeys([*(file for part in parts for file in part.looked), *linked])),
    )


class _Part(NamedTuple):
    """The result for some of the files.

    Attributes:
        linked: the stylesheets at hand that they link to.
        looked: as in `Checked`.
    """

    pages: list[CheckedPage]
    faults: list[Notice]
    linked: list[Path]
    looked: list[Path]


def _checked(files: Sequence[Path], checker: Checker, unsaved: Mapping[Path, str]) -> _Part:
    part = _Part([], [], [], [])
    for file in files:
        try:
            text = unsaved[file] if file in unsaved else read_text(file).text
        except PageError as error:
            part.faults.extend(error.notices)
            continue
        page, sheets = checker.checked(file, text)
        part.pages.append(page)
        part.linked.extend(sheets)
    looked = checker.looked
    part.looked.extend([*looked.files, *looked.sheets, *sorted(looked.missing)])
    return part


class _Portion(NamedTuple):
    """The files that one process checks, by the plan of a file."""

    number: int
    files: list[Path]
    plan: Path | None


def _portions(files: Sequence[Path], plan: Plan | None) -> list[_Portion]:
    """Files in portions of about the same weight."""
    found: list[_Portion] = []
    weight = _PORTION
    for file in files:
        if weight >= _PORTION:
            found.append(_Portion(len(found), [], plan.file if plan else None))
            weight = 0
        found[-1].files.append(file)
        weight += file.stat().st_size if is_file(file) else 0
    return found if len(found) >= _WORTH_PROCESSES else []


def _of_portion(portion: _Portion) -> tuple[int, _Part]:
    plan = read_plan(portion.plan) if portion.plan else None
    return portion.number, _checked(portion.files, Checker(plan), {})
