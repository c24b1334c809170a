"""`sarvel check`: what is wrong with the image markup of any page, each finding at its place."""

from __future__ import annotations

import argparse
import json
import re
import sys
import textwrap
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from sarvel.cli.checked import Checked, check_files, pages_of_plan
from sarvel.cli.speak import Speaker, console_width, legible, visible, without_files
from sarvel.core.check.rule import RULES, SEVERITIES, Finding, Severity
from sarvel.core.html.dialect import dialect_of
from sarvel.core.html.tags import line_and_column
from sarvel.errors import PlanError
from sarvel.plan.find import find_plan
from sarvel.plan.read import Plan, read_plan_if_any
from sarvel.report.sarif import Located, as_sarif

if TYPE_CHECKING:
    from rich.text import Text

SEVERITY: Severity = "wasteful"
"""From which severity on a finding makes the exit code 1, where nothing else is asked for."""

_COLORS = {"broken": "bold red", "wasteful": "yellow", "hint": "cyan"}

_LINE_END = re.compile(r"[\r\n]|\Z")


def run(options: argparse.Namespace) -> int:
    """Checks; exit code 1 if something at least as grave as asked for is found."""
    speaker = replace(Speaker.of(options), json=options.json or options.format != "text")
    if options.explain:
        return _explain(options.explain, speaker)
    named = options.plan or (None if options.pages else str(find_plan(Path.cwd())))  # pages that are named need no plan
    plan = read_plan_if_any(named, Path.cwd())
    checked, faults = check_files(_pages(options, plan), plan)
    if options.format == "sarif":
        print(json.dumps(as_sarif(_located(checked)), indent=2, ensure_ascii=False))  # noqa: T201 - the result itself
    else:
        tell(checked, speaker)
        speaker.result(summed(checked))
        speaker.document(findings=[as_json(page, one) for page in checked for one in page.findings], faults=faults)
    speaker.trouble(faults)
    return 1 if faults or has_grave(checked, options.severity or SEVERITY) else 0


def has_grave(checked: Sequence[Checked], severity: Severity) -> bool:
    """Whether there is a finding of this severity or a graver one."""
    grave = SEVERITIES[: SEVERITIES.index(severity) + 1]
    return any(RULES[one.rule].severity in grave for page in checked for one in page.findings)


def _explain(name: str, speaker: Speaker) -> int:
    rule = RULES.get(name)
    if rule is None:
        raise PlanError(f"--explain {name}: no rule is called so; rules are {', '.join(sorted(RULES))}")
    speaker.result(f"{rule.name} ({rule.severity})\n\n{rule.why}\n\nTo mend it: {rule.mend}")
    speaker.document(rule={"name": rule.name, "severity": rule.severity, "why": rule.why, "mend": rule.mend})
    return 0


def _pages(options: argparse.Namespace, plan: Plan | None) -> list[Path]:
    """The pages named; else the plan's, as woven."""
    if not options.pages:
        return pages_of_plan(plan) if plan else []
    named = [Path(name) for name in options.pages]
    for page in named:
        if not page.exists():
            raise PlanError(f"{page}: there is no such page")
    said = plan.dialects if plan else {}
    return [file for page in named for file in (_inside(page, said) if page.is_dir() else [page])]


def _inside(folder: Path, said: Mapping[str, str]) -> list[Path]:
    """The pages and stylesheets of a folder."""
    return sorted(
        file
        for file in folder.rglob("*")
        if (file.suffix == ".css" or dialect_of(file.name, said))
        and file.is_file()
        and "node_modules" not in file.parts
    )


def tell(checked: Sequence[Checked], speaker: Speaker) -> None:
    """All findings for a person: the page with the gravest first."""
    for page in sorted(checked, key=lambda page: page.gravity):
        _tell(speaker, page)


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
        if alike:
            said.append(_wrapped(f": {some[0].says}", 4, len(said)))
        said.append(f"\n    {_wrapped(rule.mend, 4, 4)}", style="dim")
        for one in some:
            line, column = line_and_column(page.text, one.start)
            place = f"{line}:{column}"
            said.append(f"\n    {place:>7}  ", style="dim")
            if not alike:
                said.append(f"{_wrapped(one.says, 13, 13)}\n{' ' * 13}")
            _excerpt(said, page.text, one, _COLORS[rule.severity])
        speaker.rich(said)
    speaker.result("")


def _wrapped(text: str, indent: int, used: int) -> str:
    """Words in lines of the console, all but the first indented; of that so many columns are used."""
    text = visible(without_files(text))
    width = max(console_width(), indent + 20)
    first, *more = textwrap.wrap(
        text, width, initial_indent=" " * used, break_long_words=False, break_on_hyphens=False
    ) or [""]
    lines = textwrap.wrap(" ".join(more), width - indent, break_on_hyphens=False) if more else []
    return "".join([first[used:], *(f"\n{' ' * indent}{line}" for line in lines)])


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
    begin = one.start - line_and_column(text, one.start)[1] + 1
    end = _LINE_END.search(text, begin)
    line = legible(text)[begin : end.start() if end else len(text)]
    at = one.start - begin
    indent = len(line) - len(line.lstrip())
    first = indent if at - indent < columns // 2 else at - 8
    shown = line[first : first + columns].replace("\t", " ")
    return shown, at - first, max(1, min(one.end - one.start, len(line) - at, columns - (at - first)))


def summed(checked: Sequence[Checked]) -> str:
    """How much was found, in a sentence."""
    counts = Counter(RULES[one.rule].severity for page in checked for one in page.findings)
    kinds = ", ".join(f"{counts[severity]} {severity}" for severity in SEVERITIES if counts[severity])
    pages = _count(len(checked), "page")
    return f"{_count(sum(counts.values()), 'finding')} in {pages}: {kinds}" if kinds else f"no fault found in {pages}"


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


def as_json(page: Checked, one: Finding) -> dict[str, object]:
    """A finding as a JSON document tells it."""
    rule = RULES[one.rule]
    line, column = line_and_column(page.text, one.start)
    return {
        "page": str(page.file),
        "line": line,
        "column": column,
        "rule": one.rule,
        "severity": rule.severity,
        "says": without_files(one.says),
        "markup": without_files(page.text[one.start : one.end]),
    }
