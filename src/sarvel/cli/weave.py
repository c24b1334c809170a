"""`sarvel weave`: writes the markup into the pages, shows it, or takes it back."""

from __future__ import annotations

import argparse

from sarvel.cli.console import Console, warn
from sarvel.cli.plans import plan_of
from sarvel.job.render import with_placeholders
from sarvel.job.site import Site, ledger_of, read_site
from sarvel.job.weave import WrittenPages, in_place, only_pages, weaver_of, write_site
from sarvel.pages.weaver import unweave


def run(options: argparse.Namespace) -> int:
    """Weaves; exit code 1 if a page needs the user."""
    console = Console.of(options)
    plan = plan_of(options)
    with ledger_of(plan, warn, creates=not options.diff) as ledger:
        site = only_pages(read_site(plan, ledger, as_it_stands=True), options.pages)
        return _run(in_place(site) if options.undo else with_placeholders(site, ledger, console), options, console)


def _run(site: Site, options: argparse.Namespace, console: Console) -> int:
    weaver = unweave if options.undo else weaver_of(site)
    results = [weaver(page) for page in site.pages]
    if options.diff:
        console.diff("".join(woven.diff() for woven in results))
        faults = [fault for woven in results for fault in woven.faults]
        pages = WrittenPages((), (), sum(woven.count for woven in results), tuple(faults))
    else:
        pages = write_site(results, weaver, site, console, beside=not options.undo)
        console.result(told(pages, "given back" if options.undo else "woven"))
    faults = [*(() if options.undo else site.faults), *pages.faults]
    console.trouble(faults)
    diffs = {str(woven.page.file.source): woven.diff() for woven in results} if options.diff else None
    console.document(pages=as_json(pages), faults=faults, **({"diff": diffs} if diffs is not None else {}))
    return 1 if faults else 0


def told(pages: WrittenPages, verb: str) -> str:
    """The result of writing pages, in a sentence."""
    written, unchanged = len(pages.written), len(pages.unchanged)
    return f"{pages.images} images {verb}; {written} pages and files written, {unchanged} left as they were"


def as_json(pages: WrittenPages) -> dict[str, object]:
    """The result of writing pages, as JSON."""
    written = [str(path) for path in pages.written]
    return {"written": written, "unchanged": len(pages.unchanged), "images": pages.images}
