"""Pages and stylesheets checked: by `check`, and at the end of `build`."""

from __future__ import annotations

import fnmatch
import os
from collections.abc import Iterable
from dataclasses import dataclass, replace
from pathlib import Path

from sarvel.cli.targets import pages_of
from sarvel.core.check.check import check
from sarvel.core.check.given import Given
from sarvel.core.check.rule import RULES, SEVERITIES, Finding
from sarvel.core.check.styles import check_sheet
from sarvel.core.html.dialect import HTML, dialect_of
from sarvel.core.html.page import read_page as tags_of
from sarvel.errors import PageError
from sarvel.pages.at_hand import Roots, is_file
from sarvel.pages.files import read_page
from sarvel.pages.seen import FilesSeen, Looked
from sarvel.plan.read import Plan


@dataclass(frozen=True)
class Checked:
    """A page or a stylesheet, and what was found in it.

    Attributes:
        file: the page.
        text: its text.
        findings: the gravest first, then by place.
    """

    file: Path
    text: str
    findings: tuple[Finding, ...]

    @property
    def gravity(self) -> tuple[int, ...]:
        """For sorting: pages with more of the gravest findings come first."""
        severities = [RULES[one.rule].severity for one in self.findings]
        return tuple(-severities.count(severity) for severity in SEVERITIES)


def pages_of_plan(plan: Plan) -> list[Path]:
    """The plan's pages, as woven."""
    places, _, _ = pages_of(plan)
    return [place.target for place in places if is_file(place.target)]


def check_files(files: Iterable[Path], plan: Plan | None) -> tuple[list[Checked], list[str]]:
    """Checks pages and stylesheets, and the stylesheets that pages link to, each once.

    Args:
        files: the pages and stylesheets.
        plan: what it says of slots, audience, budgets and what is allowed; None for none.

    Returns:
        What was found, in the order of the files, and why files could not be read.
    """
    checker = _Checker(plan)
    queue = dict.fromkeys(files)
    known = {file.absolute() for file in queue}
    checked, faults = [], []
    linked: dict[Path, None] = {}
    for files_ in (queue, linked):
        for file in files_:
            try:
                page, sheets = checker.checked(file)
            except PageError as error:
                faults.append(str(error))
                continue
            checked.append(page)
            if files_ is queue:
                linked |= {sheet: None for sheet in sheets if sheet.absolute() not in known}
    return checked, faults


class _Checker:
    """What all files of one run have in common."""

    def __init__(self, plan: Plan | None) -> None:
        self._plan = plan
        self._given = Given()
        if plan:
            checks = plan.checks
            self._given = Given(
                audience=plan.audience, slots=plan.slots, too_wide=checks.too_wide, budgets=checks.budgets
            )
        self._looked = Looked()
        self._seen: dict[Path, FilesSeen] = {}

    def checked(self, file: Path) -> tuple[Checked, list[Path]]:
        """A page or stylesheet checked, and the stylesheets at hand that it links to.

        Raises:
            PageError: it cannot be read.
        """
        text = read_page(file).text
        seen = self._seen_from(file.parent)
        if file.suffix == ".css":
            found, sheets = list(check_sheet(text, seen)), []
        else:
            dialect = dialect_of(file.name, self._plan.dialects if self._plan else {}) or HTML
            page = tags_of(text, dialect)
            found = check(page, replace(self._given, seen=seen, sheets=seen.sheet))
            sheets = [Path(os.path.relpath(sheet)) for address in page.sheets if (sheet := seen.file(address))]
        kept = [one for one in found if not (self._plan and _allowed(self._plan, one.rule, file))]
        kept.sort(key=lambda one: (SEVERITIES.index(RULES[one.rule].severity), one.start))
        return Checked(file, text, tuple(kept)), sheets

    def _seen_from(self, folder: Path) -> FilesSeen:
        if folder not in self._seen:
            plan = self._plan
            roots = Roots(folder, plan.output if plan else None, plan.address if plan else "")
            self._seen[folder] = FilesSeen(roots, self._looked)
        return self._seen[folder]


def _allowed(plan: Plan, rule: str, file: Path) -> bool:
    """Whether the plan lets a page break a rule."""
    name = os.path.relpath(file.absolute(), plan.folder.absolute()).replace(os.sep, "/")
    return any(fnmatch.fnmatchcase(name, pattern) for pattern in plan.checks.allow.get(rule, ()))
