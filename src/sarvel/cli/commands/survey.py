"""`sarvel survey`: every image file of a site, its uses, its bytes, and possible savings."""

from __future__ import annotations

import argparse
import os
from collections import Counter
from collections.abc import Sequence
from pathlib import Path

from sarvel.cli.ui.console import Console
from sarvel.cli.ui.styles import BAD, WARNING
from sarvel.cli.ui.table import Column, Table
from sarvel.core.amounts import counted, percent, weight
from sarvel.errors import PlanError
from sarvel.notices import Kind, Notice
from sarvel.pages.read.expression import UNTOLD, UNTOLD_CURE
from sarvel.plan.read import read_plan_if_any
from sarvel.tools.survey import Placed, Survey, SurveyedFile, survey

_SHOWN = 20  # rows; the rest is of the ones that could save least
_FEW = 5  # rows of unused or missing files
_PLENTY = 1.5  # times the needed pixels, from which on it is highlighted


def run(options: argparse.Namespace) -> int:
    """Surveys; exit code 1 if files are missing or could not be read."""
    console = Console.of(options)
    paths = [Path(path) for path in options.paths or ["."]]
    for path in paths:
        if not path.exists():
            raise PlanError.at(path, "there is no such file or folder", "name one that is")
    found = survey(paths, read_plan_if_any(options.plan, Path.cwd()), console)
    _tell(console, found, everything=options.all)
    console.document(**_as_json(found))
    console.notes([Notice(Kind.IMAGE, str(placed), UNTOLD, UNTOLD_CURE, "note") for placed in found.untold])
    missing = (Notice(Kind.PAGE, str(placed), f"there is no file {placed.use.url}") for placed in found.missing)
    console.trouble([*missing, *found.faults])
    return console.code(failed=bool(found.faults) or (console.strict and bool(found.missing)))


def _tell(console: Console, found: Survey, *, everything: bool) -> None:
    if not console.is_for_people:
        return
    used = [row for row in found.rows if row.uses]
    rows = used if everything else used[:_SHOWN]
    if rows:
        console.show(_table(rows))
    if len(rows) < len(used):
        console.result(f"and {counted(len(used) - len(rows), 'file')} that could save less; --all shows them\n")
    _tell_files(console, "nothing here names", found.unused, everything=everything)
    copies = sorted((row for row in found.rows if row.copy_of), key=lambda row: -row.weight)
    _tell_files(console, "smaller copies of other files, not needed as masters:", copies, everything=everything)
    for line in _sums(found, used):
        console.result(line)


def _table(rows: Sequence[SurveyedFile]) -> Table:
    """Files, the one that could save most first."""
    table = Table(
        [
            Column("saves\na visit", "number"),
            Column("file", "name"),
            Column("is", spare=1, style="dim"),
            Column("weighs", "number"),
            Column("fitting\nabout", "number"),
            Column("shown", "number"),
            Column("pixels\ntoo many", "number"),
            Column("used", "name", spare=2, style="dim"),
        ]
    )
    for row in rows:
        table.add(
            (f"~{weight(row.weighed.saves)}" if row.weighed.saves > 0 else "", _color(row)),
            os.path.relpath(row.file),
            _is(row),
            weight(row.weight),
            _fitting(row),
            _shown(row.uses),
            _too_many(row),
            f"{len(row.uses)}×  {row.uses[0].file.name}:{row.uses[0].line}",
        )
    return table


def _fitting(row: SurveyedFile) -> str:
    return f"~{weight(row.weighed.fitting)}" if row.weighed.fitting is not None else "?"


def _too_many(row: SurveyedFile) -> str:
    many = row.weighed.too_many
    return f"×{many:.1f}" if many and many >= _PLENTY else ""


def _tell_files(console: Console, what: str, rows: Sequence[SurveyedFile], *, everything: bool) -> None:
    """Files that no page needs, the heaviest first.

    Args:
        what: words in front of their count and weight.
    """
    if not rows:
        return
    whole = sum(row.weight for row in rows)
    console.result(f"{what} {counted(len(rows), 'file')}, {weight(whole)}:")
    few = rows if everything else rows[:_FEW]
    for row in few:
        of = f", of {os.path.relpath(row.copy_of.file)}" if row.copy_of else ""
        console.result(f"  {weight(row.weight):>8}  {os.path.relpath(row.file)}{of}")
    if len(few) < len(rows):
        console.result(f"  and {len(rows) - len(few)} more")
    console.result("")


def _sums(found: Survey, used: Sequence[SurveyedFile]) -> list[str]:
    total = sum(row.weight for row in found.rows)
    looked = f"{counted(len(found.pages), 'page')} and {counted(len(found.sheets), 'stylesheet')}"
    lines = [f"{counted(len(found.rows), 'image file')}, {weight(total)}, next to {looked}"]
    known = [row for row in used if row.weighed.fitting is not None]
    weighs = sum(row.weight for row in known)
    fitting = sum(row.weighed.fitting or 0 for row in known)
    if weighs:
        sampled = sum(row.sampled for row in known)
        lines.append(f"{len(known)} of them are shown and weigh {weight(weighs)}")
        lines.append(f"AVIF files that fit would weigh about {weight(fitting)}, {percent(1 - fitting / weighs)} less")
        lines.append(f"(an estimate, from small encodes of {sampled} of them)")
    kinds = Counter(placed.use.kind for row in used for placed in row.uses)
    if set(kinds) - {"img"}:
        lines.append("named as " + ", ".join(f"{kind} {count}×" for kind, count in kinds.most_common()))
    if found.missing:
        lines.append(f"{counted(len(found.missing), 'use')} of files that are not there")
    return lines


def _color(row: SurveyedFile) -> str:
    return BAD if row.weighed.saves > 500_000 else WARNING if row.weighed.saves > 50_000 else ""


def _is(row: SurveyedFile) -> str:
    """`4200×2800 JPEG, Display P3`."""
    head = row.header
    if not head.format:
        return "unreadable"
    more = [*(["alpha"] if head.alpha else []), *(["moves"] if head.frames > 1 else []), *_profile(head.profile)]
    return ", ".join([f"{head.width}×{head.height} {head.format}" if head.width else head.format, *more])


def _profile(name: str) -> list[str]:
    """The name of a color profile, unless it is sRGB, which every image without one is treated as."""
    return [] if not name or name.lower().startswith("srgb") else [name]


def _shown(uses: Sequence[Placed]) -> str:
    """The widths at which it is shown, CSS px, over all uses."""
    known = [placed.use.shown for placed in uses if placed.use.shown]
    if not known:
        return "?"
    least, most = min(low for low, _ in known), max(high for _, high in known)
    return f"{most:.0f}" if round(least) == round(most) else f"{least:.0f}–{most:.0f}"


def _from_here(file: Path) -> str:
    """A path as seen from the current folder, with forward slashes."""
    return Path(os.path.relpath(file)).as_posix()


def _as_json(found: Survey) -> dict[str, object]:
    return {
        "files": [
            {
                "file": _from_here(row.file),
                "width": row.header.width,
                "height": row.header.height,
                "format": row.header.format,
                "alpha": row.header.alpha,
                "profile": row.header.profile,
                "frames": row.header.frames,
                "bytes": row.weight,
                "uses": [
                    {
                        "file": _from_here(placed.file),
                        "line": placed.line,
                        "column": placed.column,
                        "kind": placed.use.kind,
                        "shown": placed.use.shown,
                        "fetched_by": round(sum(need.share for need in placed.use.needs), 4),
                    }
                    for placed in row.uses
                ],
                "mentioned": row.mentioned,
                "needed_width": row.weighed.widest,
                "pixels_too_many": row.weighed.too_many,
                "estimated_bytes": None if row.weighed.fitting is None else round(row.weighed.fitting),
                "estimated_saving": round(row.weighed.saves),
                "estimated_from_its_own_picture": row.sampled,
                "copy_of": _from_here(row.copy_of.file) if row.copy_of else None,
            }
            for row in found.rows
        ],
        "unused": [_from_here(row.file) for row in found.unused],
        "missing": [_place(one) for one in found.missing],
        "untold": [_place(one) for one in found.untold],
        "faults": found.faults,
    }


def _place(one: Placed) -> dict[str, object]:
    return {"file": _from_here(one.file), "line": one.line, "column": one.column, "url": one.use.url}
