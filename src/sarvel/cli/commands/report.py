"""`sarvel report`: a page to look at, a page for a review, a document for programs."""

from __future__ import annotations

import argparse
import json
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from sarvel.cli.plans import plan_of
from sarvel.cli.ui.console import Console, warn
from sarvel.core.amounts import counted
from sarvel.errors import PlanError
from sarvel.files.atomic import write_whole
from sarvel.pipeline.site import Site, ledger_of, read_site
from sarvel.pipeline.targets import check_output
from sarvel.workers.cores import available_workers

_TROUBLES = {"changes": "boxes elsewhere", "broken": "broken images", "errors": "errors of scripts"}

if TYPE_CHECKING:
    from sarvel.tools.report.facts import Report
    from sarvel.tools.report.since import Since


def run(options: argparse.Namespace) -> int:
    """Writes the report; exit code 1 if something is broken."""
    console = Console.of(options)
    earlier = _document(options.since, "--since", "sarvel report --json") if options.since else None
    confirmed = _confirmed(options.confirmed) if options.confirmed else ()
    plan = plan_of(options)
    with ledger_of(plan, warn, creates=False) as ledger:
        from sarvel.tools.report.gather import ReportOptions, report_of

        site = read_site(plan, ledger, as_it_stands=True)
        output = Path(options.output) if options.output else plan.folder / "report.html"
        check_output(plan, output, site.files_read())
        count = 0 if options.markdown else options.compare
        workers = options.workers or available_workers()
        report = report_of(site, ledger, ReportOptions(output.parent, count, workers, confirmed), console)
    told = _since(report, earlier, options.since) if earlier is not None else None
    written = _written(report, told, site, output, options, console)
    _tell(report, written, options, console)
    return console.code(failed=console.strict and any(one.severity == "fault" for one in report.tasks))


def _since(report: Report, earlier: Mapping[str, Any], name: str) -> Since:
    from sarvel.tools.report.since import since

    try:
        return since(report, earlier)
    except (KeyError, TypeError, AttributeError, ValueError) as error:
        raise PlanError.at(
            "", f"--since {name}: is no document of a report", "write one with sarvel report --json"
        ) from error


def _written(
    report: Report, told: Since | None, site: Site, output: Path, options: argparse.Namespace, console: Console
) -> list[Path]:
    """Writes the pages, or prints Markdown or writes it where a file is named."""
    if options.markdown:
        from sarvel.tools.report.review import as_markdown

        text = as_markdown(report, told, pictures=options.pictures)
        if options.output:
            write_whole(output, text.encode("utf-8", "replace"))
            return [output]
        console.result(text.rstrip())
        return []
    from sarvel.files.reports import write_for_people
    from sarvel.tools.report.page import as_pages
    from sarvel.tools.report.since import by_device

    if told:
        report = replace(report, since=by_device(report, told))
    pages = as_pages(report, output.name, site.plan.file.name)
    for name, content in pages.items():
        file = output.parent / name
        write_for_people(file, content, output.parent)
    return [output.parent / name for name in pages]


def _tell(report: Report, written: Sequence[Path], options: argparse.Namespace, console: Console) -> None:
    if written:
        more = f" and {counted(len(written) - 1, 'page')} of single pictures" if len(written) > 1 else ""
        console.result(f"written: {written[0]}{more}")
    if not options.markdown:
        faults = sum(one.severity == "fault" for one in report.tasks)
        needs = f"{counted(len(report.tasks), 'open point')}: {counted(faults, 'fault')}, {len(report.tasks) - faults} other"
        console.result(needs if report.tasks else "nothing needs a person")
    if console.json:
        from sarvel.tools.report.document import as_document

        console.document(report=as_document(report), written=[file.as_posix() for file in written])
    if options.open and written:
        import webbrowser

        webbrowser.open(written[0].absolute().as_uri())


def _document(name: str, option: str, how: str) -> Mapping[str, Any]:
    """A JSON document, or the report in it.

    Raises:
        PlanError: it cannot be read, or is not one.
    """
    try:
        document = json.loads(Path(name).read_text(encoding="utf-8"))
        found = document.get("report", document)
        return dict(found)
    except (OSError, ValueError, TypeError, AttributeError) as error:
        raise PlanError.at(
            "", f"{option} {name}: cannot be read ({type(error).__name__})", f"write it with {how} > FILE"
        ) from error


def _confirmed(name: str) -> tuple[str, ...]:
    """What a document of `confirm` says, a sentence for each page."""
    document = _document(name, "--confirmed", "sarvel confirm --json")
    try:
        return tuple(_confirmed_page(page) for page in document["pages"])
    except (KeyError, TypeError) as error:
        raise PlanError.at(
            "", f"--confirmed {name}: is no document of sarvel confirm", "write it with --json > FILE"
        ) from error


def _confirmed_page(page: Mapping[str, Any]) -> str:
    files, strayed = len(page["fetched"]), len(page["strayed"])
    agreed = (
        f"{files - strayed} of {counted(files, 'file')} as predicted"
        if strayed
        else f"{counted(files, 'file')} as predicted"
    )
    trouble = [f"{len(page[name])} {words}" for name, words in _TROUBLES.items() if page[name]]
    end = "" if page["well"] else f"; needs a look: {', '.join(trouble) or 'see sarvel confirm'}"
    return f"{page['page']} on {page['device']}: {agreed}{end}"
