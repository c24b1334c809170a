"""One page or stylesheet checked, with all that lies around it."""

from __future__ import annotations

import bisect
import functools
import os
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path

from sarvel.core.check.all_rules import check
from sarvel.core.check.context import Context, LinkedFile
from sarvel.core.check.finding_prints import fingerprints
from sarvel.core.check.rule import SEVERITIES, Finding, Rule
from sarvel.core.check.styles import check_sheet
from sarvel.core.html.document import Document
from sarvel.core.html.pieces import Edit
from sarvel.core.html.tags import line_and_column
from sarvel.core.layout.audience import busiest
from sarvel.core.patterns import matches
from sarvel.encode.image_headers import read_header
from sarvel.notices import Kind, Notice, Severity
from sarvel.pages.read.linked_files import LinkedFiles, Looked
from sarvel.pages.read.page_files import seen_from
from sarvel.pages.read.roots import Roots
from sarvel.pipeline.documents import document_of
from sarvel.pipeline.layout_state import changed_since
from sarvel.pipeline.roots import roots_of
from sarvel.plan.read import Plan
from sarvel.rules import RULES

_SEVERITIES: Mapping[str, Severity] = {"broken": "fault", "wasteful": "warning", "hint": "note"}


@dataclass(frozen=True)
class FindingNotice(Notice):
    """A finding as a notice.

    Attributes:
        start: line and column, both from 1.
        markup: what is at fault.
        fingerprint: the same for the same fault, no matter where it moves.
        edits: what mends it; none where that is not sure.
    """

    rule: Rule = field(kw_only=True)
    file: str = ""
    start: tuple[int, int] = (1, 1)
    end: tuple[int, int] = (1, 1)
    markup: str = ""
    fingerprint: str = ""
    edits: tuple[Edit, ...] = ()

    @property
    def words(self) -> str:
        """The text and the cure, in sentences."""
        return in_sentences(self.text, self.cure)

    def as_json(self) -> dict[str, object]:
        """The notice as docs/json.md has it, with its rule."""
        return super().as_json() | {"rule": self.rule.name}


def _with_cures_of_plan(found: Sequence[Finding], page: Document) -> list[Finding]:
    """Findings, those in markup that Sarvel wrote with a cure in the plan, and no edits: an edited block is not woven again."""
    spans = page.woven
    starts = [start for start, _ in spans]

    def is_woven(one: Finding) -> bool:
        place = bisect.bisect_right(starts, one.start) - 1
        return place >= 0 and one.start < spans[place][1]

    return [
        replace(one, cure=cure, edits=()) if (cure := RULES[one.rule].woven) and is_woven(one) else one for one in found
    ]


def in_sentences(says: str, cure: str) -> str:
    """A fault and its cure."""
    return f"{says}{' ' if says.endswith('?') else '. '}{cure}".rstrip()


@dataclass(frozen=True)
class CheckedPage:
    """A page or a stylesheet, and its findings.

    Attributes:
        findings: the gravest first, then by place.
    """

    file: Path
    text: str
    findings: tuple[Finding, ...]

    @functools.cached_property
    def name(self) -> str:
        """The page as its repository calls it, with forward slashes; as seen from here, if it is in none."""
        file = self.file.absolute()
        root = next((folder for folder in file.parents if (folder / ".git").exists()), None)
        return (file.relative_to(root) if root else self.file).as_posix()

    @functools.cached_property
    def notices(self) -> list[FindingNotice]:
        """The findings as notices."""
        return [
            FindingNotice(
                Kind.FINDING,
                f"{self.name}:{line}:{column}",
                one.says,
                one.cure or RULES[one.rule].mend,
                _SEVERITIES[RULES[one.rule].severity],
                rule=RULES[one.rule],
                file=self.name,
                start=(line, column),
                end=line_and_column(self.text, max(one.start + 1, one.end)),
                markup=self.text[one.start : one.end],
                fingerprint=print_,
                edits=one.edits,
            )
            for one, print_ in zip(self.findings, self._fingerprints, strict=True)
            for line, column in [line_and_column(self.text, one.start)]
        ]

    @property
    def _fingerprints(self) -> list[str]:
        return fingerprints(self.name, self.text, self.findings)

    def beyond(self, known: Collection[str]) -> CheckedPage:
        """The page without the findings whose fingerprints are known."""
        pairs = zip(self.findings, self._fingerprints, strict=True)
        return replace(self, findings=tuple(one for one, print_ in pairs if print_ not in known))

    @property
    def gravity(self) -> tuple[int, ...]:
        """A key to sort by: pages with more of the gravest findings come first."""
        severities = [RULES[one.rule].severity for one in self.findings]
        return tuple(-severities.count(severity) for severity in SEVERITIES)


class Checker:
    """Checks pages and stylesheets one by one; keeps the other files that it reads."""

    def __init__(self, plan: Plan | None) -> None:
        """Prepares to check.

        Args:
            plan: slots, audience, budgets and allowed rules; or None.
        """
        self._plan = plan
        self._context = Context(rules=RULES)
        self._changed = changed_since(plan) if plan else {}
        if plan:
            checks = plan.checks
            self._context = Context(
                audience=busiest(plan.audience),
                slots=plan.slots,
                too_wide=checks.too_wide,
                rules=RULES,
                budgets=checks.budgets,
            )
        self.looked = Looked(_linked_file)
        self._files_from: dict[Roots, LinkedFiles] = {}

    def checked(self, file: Path, text: str) -> tuple[CheckedPage, list[Path]]:
        """A page or stylesheet checked, and the stylesheets at hand that it links to.

        Args:
            text: its text, which may not be saved yet.
        """
        files = self._linked_from(roots_of(file, "" if file.suffix == ".css" else text, self._plan))
        if file.suffix == ".css":
            page, found, sheets = Document(text), list(check_sheet(text, files)), []
        else:
            page = document_of(text, file, self._plan)
            found = check(page, replace(self._context, lookup=files, sheets=files.sheet))
            if slots := self._changed.get(file):
                says = f"its layout is not the one on which these slots were measured: {slots}"
                found.append(Finding("layout-changed-since", 0, min(len(text), 1), says))
            sheets = [Path(os.path.relpath(sheet)) for address in page.sheets if (sheet := files.file(address))]
        kept = [one for one in found if not (self._plan and _allowed(self._plan, one.rule, file))]
        kept = _with_cures_of_plan(kept, page)
        kept.sort(key=lambda one: (SEVERITIES.index(RULES[one.rule].severity), one.start))
        return CheckedPage(file, text, tuple(kept)), sheets

    def _linked_from(self, roots: Roots) -> LinkedFiles:
        if roots not in self._files_from:
            self._files_from[roots] = LinkedFiles(roots, self.looked)
        return self._files_from[roots]


def _linked_file(file: Path) -> LinkedFile:
    """Reads of an image file's header what checks need."""
    try:
        weight = file.stat().st_size
    except OSError:
        return LinkedFile()
    header = read_header(file, whole=False)
    return LinkedFile(header.width, header.height, header.media_type, weight=weight)


def _allowed(plan: Plan, rule: str, file: Path) -> bool:
    """Tells whether the plan lets a page break a rule."""
    name = seen_from(plan.folder, file)
    return any(matches(pattern, name) for pattern in plan.checks.allow.get(rule, ()))
