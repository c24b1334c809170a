"""The report in Markdown, for a review request: totals, changes, and open points."""

from __future__ import annotations

import re
from collections.abc import Iterable

from sarvel.core.amounts import counted, percent, weight
from sarvel.tools.report.facts import Report
from sarvel.tools.report.networks import NETWORKS
from sarvel.tools.report.page import seconds
from sarvel.tools.report.since import Since, in_bytes

_MOST = 10  # changes, and tasks, that are listed


def as_markdown(report: Report, told: Since | None, *, pictures: bool) -> str:
    """The report in Markdown.

    Args:
        told: what changed since an earlier report, if there is one.
        pictures: whether small pictures are put in, as data.
    """
    parts = [f"## Images of {_text(report.title)}", "", *_totals(report, told), ""]
    if told:
        parts += [*_changes(report, told, pictures=pictures), ""]
    elif pictures:
        parts += [*_shown(report), ""]
    return "\n".join([*parts, *_tasks(report)]).rstrip() + "\n"


def _totals(report: Report, told: Since | None) -> Iterable[str]:
    files = len({file.name for one in report.pictures for crop in one.crops for file in crop.files})
    yield f"{counted(len(report.pages), 'page')}, {counted(len(report.pictures), 'picture')}, {counted(files, 'file')}."
    yield ""
    change = " | since" if told else ""
    yield f"| all pages on | with masters | now{change} | {' | '.join(f'{one.name}, s' for one in NETWORKS)} |"
    yield f"| --- | ---: | ---:{' | ---:' if told else ''} | {' | '.join('---:' for _ in NETWORKS)} |"
    for device, now in report.fetched.items():
        since = f" | {in_bytes(now - told.fetched.get(device, 0))}" if told else ""
        times = " | ".join(
            f"{seconds(one.seconds(report.masters_weight))} → {seconds(one.seconds(now))}" for one in NETWORKS
        )
        yield f"| {device} | {weight(report.masters_weight)} | {weight(now)}{since} | {times} |"
    yield ""
    yield f"Networks: {'; '.join(map(str, NETWORKS))}; each with two round trips."
    for budget in report.budgets:
        if budget.weight > budget.allowed:
            over = percent(budget.weight / budget.allowed - 1)
            told_ = f"{weight(budget.weight)} of {weight(budget.allowed)}"
            yield f"- **over budget by {over}**: {_code(budget.page)} on {budget.device}, {told_}"


def _changes(report: Report, told: Since, *, pictures: bool) -> Iterable[str]:
    if not told.changes:
        yield "No picture changed since the last report."
        return
    thumbs = {(one.slot, one.master): one.crops[0].thumb for one in report.pictures}
    more = f", the {_MOST} largest of {len(told.changes)}" if len(told.changes) > _MOST else ""
    yield f"### What changed{more}"
    yield ""
    yield f"| picture | device | before | now | change |{' |' if pictures else ''}"
    yield f"| --- | --- | ---: | ---: | ---: |{' --- |' if pictures else ''}"
    for one in told.changes[:_MOST]:
        before, now = (weight(count) if count is not None else "–" for count in (one.before, one.now))
        thumb = thumbs.get((one.slot, one.master))
        shown = f" ![]({thumb}) |" if pictures and thumb else " |" if pictures else ""
        yield f"| {_code(one.master)} in {_text(one.slot)} | {one.device} | {before} | {now} | {in_bytes(one.by)} |{shown}"


def _shown(report: Report) -> Iterable[str]:
    for one in report.pictures[:_MOST]:
        yield f"![{_text(one.alt)}]({one.crops[0].thumb}) {_code(one.master)} in {_text(one.slot)}  "


def _tasks(report: Report) -> Iterable[str]:
    if not report.tasks:
        yield "Nothing needs a person."
        return
    more = f", the first {_MOST} of {len(report.tasks)}" if len(report.tasks) > _MOST else ""
    yield f"### Open points{more}"
    yield ""
    for one in report.tasks[:_MOST]:
        where = f"{_code(one.place)}: " if one.place else ""
        yield f"- **{one.severity}** {where}{_text(one.words)}"


def _text(text: str) -> str:
    """A text in which nothing is Markdown or HTML (CommonMark, section 2.4), on one line."""
    return re.sub(r"([\\`*_{}\[\]<>|#~!&])", r"\\\1", " ".join(text.split()))


def _code(text: str) -> str:
    """A text as code, whichever characters it holds (CommonMark, section 6.1)."""
    text = " ".join(text.split()).replace("|", "\\|")
    longest = max((len(run) for run in re.findall(r"`+", text)), default=0)
    fence = "`" * (longest + 1)
    space = " " if longest else ""
    return f"{fence}{space}{text}{space}{fence}"
