"""`sarvel survey`: every image file of a site, where it is used, what it weighs, and what it could weigh."""

from __future__ import annotations

import argparse
import os
from collections.abc import Sequence
from pathlib import Path

from sarvel.cli.speak import Speaker, console_width, percent, size
from sarvel.cli.surveyed import Placed, Row, Survey, survey
from sarvel.errors import PlanError
from sarvel.plan.find import find_plan
from sarvel.plan.read import Plan, read_plan

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
    found = survey(paths, _plan(options), speaker)
    _tell(speaker, found, everything=options.all)
    speaker.document(**_as_json(found))
    speaker.trouble([*(f"{placed}: there is no file {placed.use.url}" for placed in found.missing), *found.faults])
    return 1 if found.missing or found.faults else 0


def _plan(options: argparse.Namespace) -> Plan | None:
    """The plan named, or the nearest; a survey needs none."""
    if options.plan:
        return read_plan(Path(options.plan))
    try:
        return read_plan(find_plan(Path.cwd()))
    except PlanError as error:
        if "no sarvel.toml" in str(error):
            return None
        raise


def _tell(speaker: Speaker, found: Survey, *, everything: bool) -> None:
    if speaker.json or speaker.quiet:
        return
    from rich import box  # noqa: PLC0415 - slow to load
    from rich.table import Table  # noqa: PLC0415 - as above
    from rich.text import Text  # noqa: PLC0415 - as above

    used = [row for row in found.rows if row.uses]
    table = Table(box=box.SIMPLE_HEAD, pad_edge=False, padding=(0, 1, 0, 0))
    table.add_column("saves\na visit", justify="right", no_wrap=True, min_width=7)
    table.add_column("file", no_wrap=True)
    roomy = console_width() >= _ROOMY
    if roomy:
        table.add_column("is", no_wrap=True, style="dim")
    table.add_column("weighs", justify="right", no_wrap=True, min_width=7)
    table.add_column("fitting\nabout", justify="right", no_wrap=True, min_width=7)
    table.add_column("shown", justify="right", no_wrap=True, min_width=9)
    table.add_column("pixels\ntoo many", justify="right", no_wrap=True, min_width=8)
    if roomy:
        table.add_column("used", overflow="fold", style="dim")
    rows = used if everything else used[:_SHOWN]
    for row in rows:
        one = row.weighed
        table.add_row(
            Text(f"~{size(one.saves)}" if one.saves > 0 else "", style=_color(row)),
            _short(os.path.relpath(row.file)),
            *([_is(row)] if roomy else []),
            size(row.weight),
            f"~{size(one.fitting)}" if one.fitting is not None else "?",
            _shown(row.uses),
            f"×{one.too_many:.1f}" if one.too_many and one.too_many >= _PLENTY else "",
            *([f"{len(row.uses)}×  {row.uses[0].file}:{row.uses[0].line}"] if roomy else []),
        )
    if rows:
        speaker.rich(table)
    if len(rows) < len(used):
        speaker.result(f"and {len(used) - len(rows)} files that could save less; --all shows them\n")
    _tell_unused(speaker, found.unused, everything=everything)
    for line in _sums(found, used):
        speaker.result(line)


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
    most = max(24, console_width() // 4)
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
