"""`sarvel survey`: every image file of a site, where it is used, what it weighs, and what it could weigh."""

from __future__ import annotations

import argparse
import os
from collections.abc import Sequence
from pathlib import Path

from sarvel.cli.speak import Speaker, console_width, percent, size
from sarvel.cli.surveyed import Placed, Row, Survey, survey
from sarvel.errors import PlanError
from sarvel.plan.read import read_plan_if_any

_SHOWN = 20  # rows; the rest is of those that could save least
_FEW = 5  # rows of what is unused or missing
_ROOMY = 110  # columns of a terminal from which all columns are shown
_PLENTY = 1.5  # times the pixels that are needed, from which on it is told


def run(options: argparse.Namespace) -> int:
    """Surveys; exit code 1 if files are missing or could not be read."""
    speaker = Speaker.of(options)
    paths = [Path(path) for path in options.paths or ["."]]
    for path in paths:
        if not path.exists():
            raise PlanError(f"{path}: there is no such file or folder; name one that is")
    found = survey(paths, read_plan_if_any(options.plan, Path.cwd()), speaker)
    _tell(speaker, found, everything=options.all)
    speaker.document(**_as_json(found))
    speaker.trouble([*(f"{placed}: there is no file {placed.use.url}" for placed in found.missing), *found.faults])
    return 1 if found.missing or found.faults else 0


def _tell(speaker: Speaker, found: Survey, *, everything: bool) -> None:
    if speaker.json or speaker.quiet:
        return
    used = [row for row in found.rows if row.uses]
    rows = used if everything else used[:_SHOWN]
    if rows:
        _table(speaker, rows)
    if len(rows) < len(used):
        speaker.result(f"and {len(used) - len(rows)} files that could save less; --all shows them\n")
    _tell_unused(speaker, found.unused, everything=everything)
    for line in _sums(found, used):
        speaker.result(line)


def _table(speaker: Speaker, rows: Sequence[Row]) -> None:
    """Files, with as many columns as there is room for; numbers are never cut off."""
    from rich import box  # noqa: PLC0415 - slow to load
    from rich.table import Table  # noqa: PLC0415 - as above
    from rich.text import Text  # noqa: PLC0415 - as above

    roomy = console_width() >= _ROOMY
    columns: list[tuple[str, list[str], bool]] = [
        ("saves\na visit", [f"~{size(row.weighed.saves)}" if row.weighed.saves > 0 else "" for row in rows], True),
        ("file", [_short(os.path.relpath(row.file)) for row in rows], False),
        ("is", [_is(row) for row in rows], False),
        ("weighs", [size(row.weight) for row in rows], True),
        ("fitting\nabout", [_fitting(row) for row in rows], True),
        ("shown", [_shown(row.uses) for row in rows], True),
        ("pixels\ntoo many", [_too_many(row) for row in rows], True),
        ("used", [f"{len(row.uses)}×  {row.uses[0].file.name}:{row.uses[0].line}" for row in rows], False),
    ]
    shown = [column for column in columns if roomy or column[0] not in ("is", "used")]
    table = Table(box=box.SIMPLE_HEAD, pad_edge=False, padding=(0, 1, 0, 0))
    for name, cells, number in shown:
        least = max(map(len, (*name.split("\n"), *cells))) if number else None
        style = "dim" if name in ("is", "used") else ""
        table.add_column(name, justify="right" if number else "left", no_wrap=True, min_width=least, style=style)
    for row, (first, *others) in zip(rows, zip(*(cells for _, cells, _ in shown), strict=True), strict=True):
        table.add_row(Text(first, style=_color(row)), *others)
    speaker.rich(table)


def _fitting(row: Row) -> str:
    return f"~{size(row.weighed.fitting)}" if row.weighed.fitting is not None else "?"


def _too_many(row: Row) -> str:
    many = row.weighed.too_many
    return f"×{many:.1f}" if many and many >= _PLENTY else ""


def _tell_unused(speaker: Speaker, unused: Sequence[Row], *, everything: bool) -> None:
    """Files that nothing names, the heaviest first."""
    if not unused:
        return
    weight = sum(row.weight for row in unused)
    speaker.result(f"nothing here names {_count(len(unused), 'file')}, {size(weight)}:")
    few = unused if everything else unused[:_FEW]
    for row in few:
        speaker.result(f"  {size(row.weight):>8}  {os.path.relpath(row.file)}")
    if len(few) < len(unused):
        speaker.result(f"  and {len(unused) - len(few)} more")
    speaker.result("")


def _count(number: int, what: str) -> str:
    return f"{number} {what}{'' if number == 1 else 's'}"


def _sums(found: Survey, used: Sequence[Row]) -> list[str]:
    total = sum(row.weight for row in found.rows)
    looked = f"{_count(len(found.pages), 'page')} and {_count(len(found.sheets), 'stylesheet')}"
    lines = [f"{_count(len(found.rows), 'image file')}, {size(total)}, beside {looked}"]
    known = [row for row in used if row.weighed.fitting is not None]
    weighs = sum(row.weight for row in known)
    fitting = sum(row.weighed.fitting or 0 for row in known)
    if weighs:
        sampled = sum(row.sampled for row in known)
        lines.append(f"{len(known)} of them are shown and weigh {size(weighs)}")
        lines.append(f"AVIF files that fit would weigh about {size(fitting)}, {percent(1 - fitting / weighs)} less")
        lines.append(f"(an estimate, from small encodes of {sampled} of them)")
    if found.missing:
        lines.append(f"{_count(len(found.missing), 'use')} of files that are not there")
    return lines


def _short(path: str) -> str:
    """A path without its middle, where it is long."""
    most = max(24, console_width() // 5)
    return path if len(path) <= most else f"{path[: most // 3]}…{path[most // 3 + 1 - most :]}"


def _color(row: Row) -> str:
    return "bold red" if row.weighed.saves > 500_000 else "yellow" if row.weighed.saves > 50_000 else ""


def _is(row: Row) -> str:
    """`4200×2800 JPEG, Display P3`."""
    head = row.header
    if not head.format:
        return "unreadable"
    more = [*(["alpha"] if head.alpha else []), *(["moves"] if head.frames > 1 else []), *_profile(head.profile)]
    return ", ".join([f"{head.width}×{head.height} {head.format}" if head.width else head.format, *more])


def _profile(name: str) -> list[str]:
    """The name of a color profile, unless it is what everything is taken for that has none."""
    return [] if not name or name.lower().startswith("srgb") else [name]


def _shown(uses: Sequence[Placed]) -> str:
    """How wide it is shown, CSS px, over all uses."""
    known = [placed.use.shown for placed in uses if placed.use.shown]
    if not known:
        return "?"
    least, most = min(low for low, _ in known), max(high for _, high in known)
    return f"{most:.0f}" if round(least) == round(most) else f"{least:.0f}–{most:.0f}"


def _as_json(found: Survey) -> dict[str, object]:
    return {
        "files": [
            {
                "file": os.path.relpath(row.file),
                "width": row.header.width,
                "height": row.header.height,
                "format": row.header.format,
                "alpha": row.header.alpha,
                "profile": row.header.profile,
                "frames": row.header.frames,
                "bytes": row.weight,
                "uses": [
                    {
                        "file": os.path.relpath(placed.file),
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
            }
            for row in found.rows
        ],
        "unused": [os.path.relpath(row.file) for row in found.unused],
        "missing": [
            {"file": os.path.relpath(one.file), "line": one.line, "column": one.column, "url": one.use.url}
            for one in found.missing
        ],
        "faults": found.faults,
    }
