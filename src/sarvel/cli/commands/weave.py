"""`sarvel weave`: writes the markup into the pages, shows it, or takes it back."""

from __future__ import annotations

import argparse

from sarvel.cli.plans import plan_of
from sarvel.cli.ui.console import Console, warn
from sarvel.core.amounts import counted
from sarvel.files.atomic import holds
from sarvel.files.ledger import Ledger
from sarvel.pages.weave.weaver import unweave
from sarvel.pipeline.render import with_placeholders
from sarvel.pipeline.site import Site, ledger_of, read_site
from sarvel.pipeline.weave import WrittenPages, in_place, only_pages, weaver_of, write_site


def run(options: argparse.Namespace) -> int:
    """Weaves; exit code 1 if a page needs the user."""
    console = Console.of(options)
    plan = plan_of(options)
    with ledger_of(plan, warn, creates=not (options.diff or options.frozen), keeps=not options.frozen) as ledger:
        site = only_pages(read_site(plan, ledger, as_it_stands=True), options.pages)
        if options.frozen:
            return _verify(site, console)
        return _run(
            in_place(site) if options.undo else with_placeholders(site, ledger, console), ledger, options, console
        )


def _verify(site: Site, console: Console) -> int:
    """Says which pages are not woven as the plan says now; exit code 1 if there are any."""
    weaver = weaver_of(site)
    results = [weaver(page) for page in site.pages]
    late = [woven.page.file.target for woven in results if not holds(woven.page.file.target, woven.content)()]
    faults = list(dict.fromkeys([*site.faults, *(fault for woven in results for fault in woven.faults)]))
    console.trouble([*(f"{file}: is not woven as the plan says now; run sarvel build" for file in late), *faults])
    console.result("" if late or faults else f"{counted(len(results), 'page')} woven as {site.plan.file} says")
    console.document(to_write=[file.as_posix() for file in late], faults=faults)
    return 1 if late or faults else 0


def _run(site: Site, ledger: Ledger, options: argparse.Namespace, console: Console) -> int:
    weaver = unweave if options.undo else weaver_of(site)
    results = [weaver(page) for page in site.pages]
    if options.diff:
        console.diff("".join(woven.diff() for woven in results))
        faults = [fault for woven in results for fault in woven.faults]
        pages = WrittenPages((), (), sum(woven.count for woven in results), tuple(faults))
    else:
        pages = write_site(results, weaver, site, ledger, console, beside=not options.undo)
        console.result(told(pages, "given back" if options.undo else "woven"))
    faults = [*(() if options.undo else site.faults), *pages.faults]
    console.trouble(faults)
    diffs = {woven.page.file.source.as_posix(): woven.diff() for woven in results} if options.diff else None
    console.document(pages=as_json(pages), faults=faults, **({"diff": diffs} if diffs is not None else {}))
    return 1 if faults else 0


def told(pages: WrittenPages, verb: str) -> str:
    """The result of writing pages, in a sentence."""
    written, unchanged = len(pages.written), len(pages.unchanged)
    return f"{pages.images} images {verb}; {written} pages and files written, {unchanged} left as they were"


def as_json(pages: WrittenPages) -> dict[str, object]:
    """The result of writing pages, as JSON."""
    written = [path.as_posix() for path in pages.written]
    return {"written": written, "unchanged": len(pages.unchanged), "images": pages.images}
