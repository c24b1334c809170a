"""`sarvel check`: what is wrong with the image markup of any page, each finding at its place."""

from __future__ import annotations

import argparse
import json
import sys
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.cli.speak import Speaker, console_width
from sarvel.core.check.check import check
from sarvel.core.check.rule import RULES, SEVERITIES, Finding
from sarvel.core.html.tags import line_and_column
from sarvel.errors import PageError, PlanError
from sarvel.pages.at_hand import Roots
from sarvel.pages.files import find_pages, read_page
from sarvel.pages.seen import FilesSeen
from sarvel.plan.find import find_plan
from sarvel.plan.read import Plan, read_plan
from sarvel.report.sarif import Located, as_sarif

if TYPE_CHECKING:
    from rich.text import Text

_COLORS = {"broken": "bold red", "wasteful": "yellow", "hint": "cyan"}


@dataclass(frozen=True)
class Checked:
    """A page and what was found in it.

    Attributes:
        file: the page.
        text: its text.
        findings: the gravest first, then by place.
    """

    file: Path
    text: str
    findings: tuple[Finding, ...]


def run(options: argparse.Namespace) -> int:
    """Checks; exit code 1 if something at least as grave as asked for is found."""
    speaker = replace(Speaker.of(options), json=options.json or options.format != "text")
    if options.explain:
        return _explain(options.explain, speaker)
    plan = _plan(options)
    checked: list[Checked] = []
    faults: list[str] = []
    for file in _pages(options, plan):
        try:
            checked.append(_checked(file, plan))
        except PageError as error:
            faults.append(str(error))
    if options.format == "sarif":
        print(json.dumps(as_sarif(_located(checked)), indent=2, ensure_ascii=False))  # noqa: T201 - the result itself
    else:
        for page in checked:
            _tell(speaker, page)
        speaker.result(_sum(checked))
        speaker.document(findings=[_as_json(page, one) for page in checked for one in page.findings], faults=faults)
    speaker.trouble(faults)
    grave = SEVERITIES[: SEVERITIES.index(options.severity) + 1]
    return 1 if faults or any(RULES[one.rule].severity in grave for page in checked for one in page.findings) else 0


def _explain(name: str, speaker: Speaker) -> int:
    rule = RULES.get(name)
    if rule is None:
        raise PlanError(f"--explain {name}: no rule is called so; rules are {', '.join(sorted(RULES))}")
    speaker.result(f"{rule.name} ({rule.severity})\n\n{rule.why}\n\nTo mend it: {rule.mend}")
    speaker.document(rule={"name": rule.name, "severity": rule.severity, "why": rule.why, "mend": rule.mend})
    return 0


def _plan(options: argparse.Namespace) -> Plan | None:
    """The plan named, or the nearest; pages that are named need none."""
    if options.plan:
        return read_plan(Path(options.plan))
    try:
        return read_plan(find_plan(Path.cwd()))
    except PlanError:
        if not options.pages:
            raise
        return None


def _pages(options: argparse.Namespace, plan: Plan | None) -> list[Path]:
    """The pages named; else the plan's, as woven."""
    if options.pages:
        named = [Path(name) for name in options.pages]
        for page in named:
            if not page.exists():
                raise PlanError(f"{page}: there is no such page")
        inside = {page: sorted(file for file in page.rglob("*") if _is_page(file)) for page in named if page.is_dir()}
        return [file for page in named for file in inside.get(page, [page])]
    if plan is None:  # pragma: no cover - told of before
        raise AssertionError
    places, _ = find_pages(plan.folder, plan.page_patterns, plan.woven, plan.dialects, plan.content)
    return [place.target for place in places if place.target.is_file() and _is_page(place.target)]


def _is_page(file: Path) -> bool:
    return file.suffix.lower() in (".html", ".htm", ".xhtml")


def _checked(file: Path, plan: Plan | None) -> Checked:
    text = read_page(file).text
    roots = Roots(file.parent, plan.output if plan else None, plan.address if plan else "")
    found = check(text, FilesSeen(roots))
    return Checked(
        file, text, tuple(sorted(found, key=lambda one: (SEVERITIES.index(RULES[one.rule].severity), one.start)))
    )


def _tell(speaker: Speaker, page: Checked) -> None:
    """By rule, the gravest first: what is wrong and what to do once, then every place with the markup underlined."""
    if not page.findings or speaker.json or speaker.quiet:
        return
    from rich.text import Text  # noqa: PLC0415 - slow to load

    speaker.rich(Text(f"{page.file}: {_count(len(page.findings), 'finding')}", style="bold"))
    for name in dict.fromkeys(one.rule for one in page.findings):
        rule, some = RULES[name], [one for one in page.findings if one.rule == name]
        alike = len({one.says for one in some}) == 1
        said = Text("  ").append(f"{rule.severity} ", style=_COLORS[rule.severity]).append(name, style="bold")
        said.append(f": {some[0].says}" if alike else "")
        said.append(f"\n    {rule.mend}", style="dim")
        for one in some:
            line, column = line_and_column(page.text, one.start)
            place = f"{line}:{column}"
            said.append(f"\n    {place:>7}  ", style="dim")
            if not alike:
                said.append(f"{one.says}\n{' ' * 13}")
            _excerpt(said, page.text, one, _COLORS[rule.severity])
        speaker.rich(said)
    speaker.result("")


def _excerpt(said: Text, text: str, one: Finding, style: str) -> None:
    """The markup at fault in its line: underlined, or with a line of waves below it where nothing can be underlined."""
    shown, before, length = excerpt_of(text, one, console_width() - 14)
    if sys.stdout.isatty():
        said.append(shown[:before]).append(shown[before : before + length], style=f"{style} underline")
        said.append(shown[before + length :])
    else:
        said.append(f"{shown}\n{' ' * (13 + before)}{'~' * length}")


def excerpt_of(text: str, one: Finding, columns: int) -> tuple[str, int, int]:
    """The line of a finding, as much of it as there is room for; where in that the fault begins, and how long it is."""
    begin = max(text.rfind("\n", 0, one.start), text.rfind("\r", 0, one.start)) + 1
    line = (text[begin:].splitlines() or [""])[0]
    at = one.start - begin
    indent = len(line) - len(line.lstrip())
    first = indent if at - indent < columns // 2 else at - 8
    shown = line[first : first + columns].replace("\t", " ")
    return shown, at - first, max(1, min(one.end - one.start, len(line) - at, columns - (at - first)))


def _sum(checked: Sequence[Checked]) -> str:
    counts = Counter(RULES[one.rule].severity for page in checked for one in page.findings)
    kinds = ", ".join(f"{counts[severity]} {severity}" for severity in SEVERITIES if counts[severity])
    pages = _count(len(checked), "page")
    return f"{_count(sum(counts.values()), 'finding')} in {pages}: {kinds}" if kinds else f"nothing found in {pages}"


def _count(number: int, what: str) -> str:
    return f"{number} {what}{'' if number == 1 else 's'}"


def _located(checked: Sequence[Checked]) -> list[Located]:
    return [
        Located(
            one,
            page.file.as_posix(),
            line_and_column(page.text, one.start),
            line_and_column(page.text, max(one.start + 1, one.end)),
        )
        for page in checked
        for one in page.findings
    ]


def _as_json(page: Checked, one: Finding) -> dict[str, object]:
    rule = RULES[one.rule]
    line, column = line_and_column(page.text, one.start)
    return {
        "page": str(page.file),
        "line": line,
        "column": column,
        "rule": one.rule,
        "severity": rule.severity,
        "says": one.says,
        "markup": page.text[one.start : one.end],
    }
