"""`sarvel check --mend`: fixes pages where that is safe, and reports the rest."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from pathlib import Path

from sarvel.cli.ui.console import Console
from sarvel.cli.ui.text import visible
from sarvel.core.amounts import counted
from sarvel.core.check.rule import SEVERITIES
from sarvel.errors import PlanError
from sarvel.pipeline.check import USUAL, pages_to_check
from sarvel.pipeline.checker import Checker, in_sentences
from sarvel.pipeline.targets import pages_of
from sarvel.plan.read import Plan
from sarvel.rules import RULES
from sarvel.tools.mend import MendedPage, mend, mend_files


def run_mend(options: argparse.Namespace, plan: Plan | None, console: Console) -> int:
    """Mends; exit code 1 if something at least as grave as asked for is left."""
    bound = SEVERITIES[: SEVERITIES.index(options.severity or USUAL) + 1]
    if options.stdin_name:
        return _mend_stdin(Path(options.stdin_name), plan, bound)
    files = pages_to_check(options.pages, plan) if options.pages else _authors(plan)
    _refuse_woven(files, plan)
    result = mend_files(files, plan, writes=not options.dry_run)
    if options.dry_run:
        console.diff("".join(page.diff() for page in result.pages))
    for page in result.pages:
        _tell(console, page, would=options.dry_run)
    mended, left = (sum(len(getattr(page, name)) for page in result.pages) for name in ("mended", "left"))
    would = "would be mended" if options.dry_run else "mended"
    tail = f", {counted(left, 'finding')} left, which sarvel check tells" if left else ""
    console.result(f"{counted(mended, 'finding')} {would}{tail}")
    console.document(
        mended=[_as_json(page) for page in result.pages if page.mended], remaining=left, faults=result.faults
    )
    console.trouble(result.faults)
    grave = any(RULES[one.rule].severity in bound for page in result.pages for one in page.left)
    return console.code(failed=bool(result.faults or grave))


def _mend_stdin(file: Path, plan: Plan | None, bound: Sequence[str]) -> int:
    checker = Checker(plan)
    text, _, left = mend(sys.stdin.read(), lambda new: checker.checked(file, new)[0].findings)
    sys.stdout.write(text)
    return 1 if any(RULES[one.rule].severity in bound for one in left) else 0


def _tell(console: Console, page: MendedPage, *, would: bool) -> None:
    if not page.mended:
        return
    console.result(f"{page.file}: {counted(len(page.mended), 'finding')} {'would be mended' if would else 'mended'}")
    for one in page.mended:
        console.result(visible(f"  {one.rule}: {in_sentences(one.says, one.cure or RULES[one.rule].mend)}"))


def _as_json(page: MendedPage) -> dict[str, object]:
    told = [{"rule": one.rule, "says": one.says, "cure": one.cure or RULES[one.rule].mend} for one in page.mended]
    return {"page": page.file.as_posix(), "mended": told, "diff": page.diff()}


def _authors(plan: Plan | None) -> list[Path]:
    """The plan's pages where their authors keep them."""
    return [file.source for file in pages_of(plan)[0]] if plan else []


def _refuse_woven(files: Sequence[Path], plan: Plan | None) -> None:
    """Refuses pages that the next weave would write over.

    Raises:
        PlanError: one of them is written by weave from another file.
    """
    if plan is None:
        return
    sources = {file.target.resolve(): file.source for file in pages_of(plan)[0] if file.target != file.source}
    for file in files:
        if source := sources.get(file.resolve()):
            raise PlanError.at(
                file, f"is woven from {source}, and would be written over", f"mend {source} and weave again"
            )
