"""`sarvel check`: mistakes in the image markup of any page, each finding at its place."""

from __future__ import annotations

import argparse
import json
import re
import sys
import textwrap
from collections import Counter
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from sarvel.cli.commands.mend import run_mend
from sarvel.cli.ui.console import Console, width
from sarvel.cli.ui.sarif import as_sarif
from sarvel.cli.ui.styles import BAD, MARK, WARNING
from sarvel.cli.ui.text import as_json as as_json_text
from sarvel.cli.ui.text import legible, one_line, visible, without_files
from sarvel.core.amounts import counted
from sarvel.core.check.rule import SEVERITIES, Finding
from sarvel.core.html.tags import line_and_column, line_around
from sarvel.errors import PlanError
from sarvel.pages.read.page_files import read_text
from sarvel.pipeline.check import USUAL, Checked, check_files, pages_to_check
from sarvel.pipeline.checker import CheckedPage, FindingNotice, in_sentences
from sarvel.plan.find import find_plan, nearest_plan
from sarvel.plan.messages import nearest
from sarvel.plan.read import read_plan_if_any
from sarvel.rules import RULES
from sarvel.workers.cores import available_workers

if TYPE_CHECKING:
    from rich.text import Text

_COLORS = {"broken": BAD, "wasteful": WARNING, "hint": MARK}

_INDENT = re.compile(r"[^\S\r\n]*")


def run(options: argparse.Namespace) -> int:
    """Checks; exit code 1 if something at least as grave as asked for is found."""
    console = replace(Console.of(options), json=options.json or options.format == "json")
    if options.format in ("sarif", "lines", "annotations"):
        console = replace(console, quiet=True)
    if options.explain:
        return _explain(options.explain, console)
    if options.dry_run and not options.mend:
        raise PlanError.at("", "--dry-run shows what --mend would change", "give both")
    if not options.plan and not _is_named(options) and nearest_plan(Path.cwd()) is None:
        raise PlanError.at(
            "", "no page is named, and no sarvel.toml is here or in any folder above", "name pages or folders"
        )
    named = options.plan or (None if _is_named(options) else str(find_plan(Path.cwd())))  # named pages need no plan
    plan = read_plan_if_any(named, Path.cwd())
    if options.mend:
        return run_mend(options, plan, console)
    unsaved = {Path(options.stdin_name): sys.stdin.read()} if options.stdin_name else {}
    checked = check_files(unsaved or pages_to_check(options.pages, plan), plan, unsaved, available_workers())
    if options.baseline:
        known = _known(Path(options.baseline))
        checked = replace(checked, pages=tuple(page.beyond(known) for page in checked.pages))
    faults, pages = checked.faults, checked.pages
    notices = [one for page in pages for one in page.notices]
    if options.format == "sarif":
        print(as_json_text(as_sarif(notices)))
    elif options.format in _LINES:
        for one in notices:
            print(visible(_LINES[options.format](one)))
    else:
        tell(pages, console)
        console.result(summed(pages))
        console.document(findings=[told for page in pages for told in as_json(page)], faults=faults)
    console.trouble(faults)
    return console.code(failed=bool(faults) or checked.has_grave(options.severity or USUAL))


def _is_named(options: argparse.Namespace) -> bool:
    return bool(options.pages or options.stdin_name)


def _known(file: Path) -> set[str]:
    """The fingerprints of a document that `check --json` wrote."""
    try:
        return {str(one["fingerprint"]) for one in json.loads(file.read_text(encoding="utf-8"))["findings"]}
    except (OSError, ValueError, KeyError, TypeError) as error:
        what = "there is no such file" if isinstance(error, FileNotFoundError) else "holds no findings of check"
        raise PlanError.at(f"--baseline {file}", what, "write it with `sarvel check --json > FILE`") from None


def _as_line(one: FindingNotice) -> str:
    """A finding as compilers tell one, which editors jump to."""
    return one_line(f"{one.place}: {one.rule.severity}: {one.text} [{one.rule.name}]")


def _as_annotation(one: FindingNotice) -> str:
    """A finding as a workflow command, which services for continuous integration show next to the line."""
    kind = {"fault": "error", "warning": "warning", "note": "notice"}[one.severity]
    file = _escaped(one.file).replace(",", "%2C").replace(":", "%3A")
    return f"::{kind} file={file},line={one.start[0]},col={one.start[1]},title={one.rule.name}::{_escaped(one.words)}"


def _escaped(text: str) -> str:
    return text.replace("%", "%25").replace("\r", "%0D").replace("\n", "%0A")


_LINES = {"lines": _as_line, "annotations": _as_annotation}


def _explain(name: str, console: Console) -> int:
    rule = RULES.get(name)
    if rule is None:
        like = [one for one in RULES if name in one]
        advice = f"similar rules: {', '.join(like)}" if like else nearest(name, sorted(RULES))
        raise PlanError.at("", f"--explain {name}: no rule is called so", advice)
    parts = [f"{rule.name} ({rule.severity})", rule.why, f"To mend it: {rule.mend}", f"Bounds: {rule.bounds}"]
    for title, markup in (("Before", rule.before), ("After", rule.after)):
        if markup:
            parts.append(f"{title}:\n\n{textwrap.indent(markup, '    ')}")
    console.result("\n\n".join(parts))
    fields = ("name", "severity", "why", "mend", "bounds", "before", "after")
    console.document(rule={field: getattr(rule, field) for field in fields})
    return 0


def tell(checked: Sequence[CheckedPage], console: Console) -> None:
    """Prints all findings for people, the page with the gravest first."""
    for page in sorted(checked, key=lambda page: page.gravity):
        _tell(console, page)


def for_later(checked: Checked) -> dict[str, object]:
    """The findings of a check, as JSON, for `tell_again` while its pages stay the same."""
    found = [
        (str(page.file), [(one.rule, one.start, one.end, one.says, one.cure) for one in page.findings])
        for page in checked.pages
        if page.findings
    ]
    return {"findings": found, "summed": summed(checked.pages), "grave": checked.has_grave()}


def tell_again(found: Sequence[tuple[str, Sequence[Any]]], console: Console) -> None:
    """Prints the findings that `for_later` gave."""
    pages = ((Path(file), some) for file, some in found)
    tell(
        [CheckedPage(file, read_text(file).text, tuple(Finding(*one) for one in some)) for file, some in pages], console
    )


def _tell(console: Console, page: CheckedPage) -> None:
    """Prints the findings of a page by rule, the gravest first: what all have in common once, then every place."""
    if not page.findings or not console.is_for_people:
        return
    from rich.text import Text

    console.show(Text(f"{one_line(str(page.file))}: {counted(len(page.findings), 'finding')}", style="bold"))
    for name in dict.fromkeys(one.rule for one in page.findings):
        rule, some = RULES[name], [one for one in page.findings if one.rule == name]
        alike, one_cure = (len(set(words)) == 1 for words in ([one.says for one in some], [one.cure for one in some]))
        said = Text("  ").append(f"{rule.severity} ", style=_COLORS[rule.severity]).append(name, style="bold")
        if alike:
            said.append(_wrapped(f": {some[0].says}", 4, len(said)))
        common = some[0].cure if one_cure and some[0].cure else rule.mend if not all(one.cure for one in some) else ""
        if common:
            said.append(f"\n    {_wrapped(common, 4, 4)}", style="dim")
        for one in some:
            line, column = line_and_column(page.text, one.start)
            place = f"{line}:{column}"
            said.append(f"\n    {place:>7}  ", style="dim")
            says, cure = "" if alike else one.says, "" if one_cure else one.cure
            if told := in_sentences(says, cure) if says and cure else says or cure:
                said.append(f"{_wrapped(told, 13, 13)}\n{' ' * 13}")
            _excerpt(said, page.text, one, _COLORS[rule.severity])
        console.show(said)
    console.result("")


def _wrapped(text: str, indent: int, used: int) -> str:
    """Wraps words at the width of the console, lines behind the first indented; `used` columns of the first are taken."""
    text = visible(without_files(text))
    columns = max(width(), indent + 20)
    first, *more = textwrap.wrap(
        text, columns, initial_indent=" " * used, break_long_words=False, break_on_hyphens=False
    ) or [""]
    lines = textwrap.wrap(" ".join(more), columns - indent, break_on_hyphens=False) if more else []
    return "".join([first[used:], *(f"\n{' ' * indent}{line}" for line in lines)])


def _excerpt(said: Text, text: str, one: Finding, style: str) -> None:
    """Appends the markup at fault in its line: underlined on a terminal, else with a line of waves below it."""
    shown, before, length = excerpt_of(text, one, width() - 14)
    if sys.stdout.isatty():
        said.append(shown[:before]).append(shown[before : before + length], style=f"{style} underline")
        said.append(shown[before + length :])
    else:
        said.append(f"{shown}\n{' ' * (13 + before)}{'~' * length}")


def excerpt_of(text: str, one: Finding, columns: int) -> tuple[str, int, int]:
    """The line of a finding, cut to the room; offset and length of the fault in it."""
    begin, end = line_around(text, one.start)
    indent = _INDENT.match(text, begin, end)
    first = indent.end() if indent else begin
    if one.start - first >= columns // 2:
        first = one.start - 8
    shown = legible(text)[first : min(end, first + columns)].replace("\t", " ")
    before = one.start - first
    return shown, before, max(1, min(one.end - one.start, end - one.start, columns - before))


def summed(checked: Sequence[CheckedPage]) -> str:
    """The number of findings, in a sentence."""
    counts = Counter(RULES[one.rule].severity for page in checked for one in page.findings)
    kinds = ", ".join(f"{counts[severity]} {severity}" for severity in SEVERITIES if counts[severity])
    pages = looked_at(checked)
    return f"{counted(sum(counts.values()), 'finding')} in {pages}: {kinds}" if kinds else f"no fault found in {pages}"


def looked_at(checked: Sequence[CheckedPage]) -> str:
    """How many pages and stylesheets were checked, in words."""
    sheets = sum(page.file.suffix.lower() == ".css" for page in checked)
    pages = [counted(len(checked) - sheets, "page")] if len(checked) > sheets or not sheets else []
    return " and ".join([*pages, *([counted(sheets, "stylesheet")] if sheets else [])])


def as_json(page: CheckedPage) -> list[dict[str, object]]:
    """The findings of a page as a JSON document tells them."""
    return [_as_json(page, one) for one in page.notices]


def _as_json(page: CheckedPage, one: FindingNotice) -> dict[str, object]:
    return {
        "page": page.file.as_posix(),
        "line": one.start[0],
        "column": one.start[1],
        "rule": one.rule.name,
        "severity": one.rule.severity,
        "says": without_files(one.text),
        "cure": without_files(one.cure),
        "mends": bool(one.edits),
        "markup": without_files(one.markup),
        "fingerprint": one.fingerprint,
    }
